import { notifications } from "@mantine/notifications";
import { plotAsPng, plotAsSvg } from "./save-plot";
import "./save-plot.css";

/** Saves the plot of the figure that it stands in, as a drawing (SVG) or as a picture (PNG). */
export function SavePlot({ name }: { name: string }) {
  async function save(button: HTMLElement, kind: "svg" | "png") {
    const plot = button.closest("figure")?.querySelector<SVGSVGElement>("svg[role='img']");
    if (!plot) return;
    try {
      const made =
        kind === "png" ? await plotAsPng(plot) : new Blob([plotAsSvg(plot)], { type: "image/svg+xml" });
      const link = document.createElement("a");
      link.href = URL.createObjectURL(made);
      link.download = `${name}.${kind}`;
      link.click();
      URL.revokeObjectURL(link.href);
    } catch (error) {
      notifications.show({ color: "bad", message: `The plot is not saved. ${(error as Error).message}` });
    }
  }
  return (
    <span className="save-plot">
      Save the plot as{" "}
      <button type="button" onClick={(e) => void save(e.currentTarget, "svg")}>
        SVG
      </button>{" "}
      or{" "}
      <button type="button" onClick={(e) => void save(e.currentTarget, "png")}>
        PNG
      </button>
    </span>
  );
}
