import { Modal } from "@mantine/core";
import { useState } from "react";
import type { PictureMark } from "../api/types";
import { MarkedPicture } from "../ui/MarkedPicture";
import "./review.css";

/** A picture from site, small; pressed, it is shown large with what was drawn on it, and the original beside. */
export function PhotoOnSite({ id, alt, marks }: { id: string; alt: string; marks: PictureMark[] }) {
  const [open, setOpen] = useState(false);
  const src = `/api/v1/pictures/${id}`;
  return (
    <>
      <button type="button" className="thumb" aria-label={`Show large: ${alt}`} onClick={() => setOpen(true)}>
        <MarkedPicture src={src} alt={alt} marks={marks} />
      </button>
      <Modal opened={open} onClose={() => setOpen(false)} title={alt} size="xl" centered>
        <div className="large-picture">
          <MarkedPicture src={src} alt={alt} marks={marks} />
        </div>
        <p>
          <a href={src} target="_blank" rel="noreferrer">
            {marks.length > 0 ? "The original, as it was taken" : "Open it by itself"}
          </a>
        </p>
      </Modal>
    </>
  );
}
