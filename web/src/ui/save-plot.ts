/** What is told of an element by style sheets and custom properties, which a file has none of. */
const STYLES = [
  "fill",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "opacity",
  "font-family",
  "font-size",
  "font-weight",
  "text-anchor",
] as const;
/** Pixels of a PNG for one of the plot, so that it is sharp on paper. */
const FINE = 2;

/** A plot as a file of its own: its styles beside each element, on the colour of the page. */
export function plotAsSvg(plot: SVGSVGElement): string {
  const copy = plot.cloneNode(true) as SVGSVGElement;
  const drawn = [plot, ...plot.querySelectorAll<SVGElement>("*")];
  for (const [i, element] of [copy, ...copy.querySelectorAll<SVGElement>("*")].entries()) {
    const styles = getComputedStyle(drawn[i] ?? plot);
    for (const name of STYLES) {
      const value = styles.getPropertyValue(name);
      if (value) element.setAttribute(name, value);
    }
    element.removeAttribute("class");
    element.removeAttribute("style");
  }
  const { width, height } = plot.viewBox.baseVal;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("width", String(width));
  copy.setAttribute("height", String(height));
  const ground = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  ground.setAttribute("width", String(width));
  ground.setAttribute("height", String(height));
  ground.setAttribute("fill", getComputedStyle(document.body).backgroundColor);
  copy.prepend(ground);
  return new XMLSerializer().serializeToString(copy);
}

/** A plot as a picture in PNG. */
export async function plotAsPng(plot: SVGSVGElement): Promise<Blob> {
  const address = URL.createObjectURL(new Blob([plotAsSvg(plot)], { type: "image/svg+xml" }));
  try {
    const picture = new Image();
    picture.src = address;
    await picture.decode();
    const { width, height } = plot.viewBox.baseVal;
    const canvas = document.createElement("canvas");
    canvas.width = width * FINE;
    canvas.height = height * FINE;
    canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
    return await new Promise((resolve, reject) =>
      canvas.toBlob(
        (made) => (made ? resolve(made) : reject(new Error("No picture could be made."))),
        "image/png",
      ),
    );
  } finally {
    URL.revokeObjectURL(address);
  }
}
