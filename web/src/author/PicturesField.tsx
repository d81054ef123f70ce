import { Button, FileButton, Popover } from "@mantine/core";
import { client, need } from "../api/client";
import { useCache, useIllustrations } from "../api/queries";
import { tellRefusal } from "../ui/use-act";

/** Pictures, still or moving, that show what to do: chosen from those kept, or added. */
export function PicturesField({
  chosen,
  onChange,
}: {
  chosen: string[];
  onChange: (make: (now: string[]) => string[]) => void;
}) {
  const all = useIllustrations();
  const cache = useCache();
  const titleOf = (id: string) => all.data?.find((i) => i.id === id)?.title ?? "Picture";

  async function add(file: File | null) {
    if (!file) return;
    const body = new FormData();
    body.append("file", file);
    body.append("title", file.name.replace(/\.\w+$/, ""));
    try {
      const made = await need(
        client.POST("/api/v1/illustrations", {
          body: { file: "", title: "" },
          bodySerializer: () => body,
        }),
      );
      void cache.invalidateQueries({ queryKey: ["illustrations"] });
      onChange((now) => [...now.filter((id) => id !== made.id), made.id]);
    } catch (error) {
      tellRefusal(error);
    }
  }

  return (
    <div className="pictures">
      {chosen.map((id) => (
        <figure key={id}>
          <img src={`/api/v1/illustrations/${id}`} alt={titleOf(id)} />
          <figcaption>
            {titleOf(id)}{" "}
            <button
              type="button"
              className="linklike"
              aria-label={`Take “${titleOf(id)}” off`}
              onClick={() => onChange((now) => now.filter((c) => c !== id))}
            >
              remove
            </button>
          </figcaption>
        </figure>
      ))}
      <FileButton accept="image/png,image/jpeg,image/webp,image/gif" onChange={add}>
        {(props) => (
          <Button variant="default" {...props}>
            Add picture
          </Button>
        )}
      </FileButton>
      {(all.data?.length ?? 0) > 0 && (
        <Popover position="bottom-start" width={330} trapFocus>
          <Popover.Target>
            <Button variant="subtle" color="slate">
              Choose one kept here
            </Button>
          </Popover.Target>
          <Popover.Dropdown>
            <div className="picture-shelf">
              {all.data
                ?.filter((i) => !chosen.includes(i.id))
                .map((i) => (
                  <button
                    key={i.id}
                    type="button"
                    title={i.title}
                    onClick={() => onChange((now) => [...now, i.id])}
                  >
                    <img src={`/api/v1/illustrations/${i.id}`} alt={i.title} />
                  </button>
                ))}
            </div>
          </Popover.Dropdown>
        </Popover>
      )}
    </div>
  );
}
