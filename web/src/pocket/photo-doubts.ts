import { useRef, useState } from "react";
import { type GreyPhoto, rulesOfPage } from "./rules";

// As the rules want them (photo_looks.py); they refuse any other number of pixels.
const WHOLE = { width: 68, height: 64 };
const LONGER_SIDE = 640;
const CENTRE = 120;

/** What is to be doubted of the photos taken on an order since it was opened, in words by picture. */
export function usePhotoDoubts() {
  const [doubts, setDoubts] = useState<Record<string, string>>({});
  const fingerprints = useRef<Record<string, string>>({});

  /** Look at a photo that was taken; `answers` are those to the other questions now. A photo is never held up. */
  async function look(picture: string, blob: Blob, answers: Set<unknown>) {
    try {
      const others = Object.fromEntries(
        Object.entries(fingerprints.current).filter(([id]) => id !== picture && answers.has(id)),
      );
      const found = await rulesOfPage().look(await greyOf(blob), others);
      fingerprints.current[picture] = found.fingerprint;
      setDoubts((held) => ({ ...held, [picture]: found.doubts }));
    } catch {
      // A device that cannot look says nothing; the office is told by the server.
    }
  }
  return { doubts, look };
}

async function greyOf(blob: Blob): Promise<GreyPhoto> {
  const photo = await createImageBitmap(blob);
  const scale = LONGER_SIDE / Math.max(photo.width, photo.height);
  const sized = canvas(
    Math.max(1, Math.round(photo.width * scale)),
    Math.max(1, Math.round(photo.height * scale)),
  );
  sized.pen.drawImage(photo, 0, 0, sized.of.width, sized.of.height);
  photo.close();
  const { width, height } = sized.of;
  const middle = { width: Math.min(width, CENTRE), height: Math.min(height, CENTRE) };
  const left = Math.floor((width - middle.width) / 2);
  const top = Math.floor((height - middle.height) / 2);
  const whole = canvas(WHOLE.width, WHOLE.height);
  whole.pen.drawImage(sized.of, 0, 0, WHOLE.width, WHOLE.height);
  const centre = canvas(CENTRE, CENTRE);
  centre.pen.drawImage(sized.of, left, top, middle.width, middle.height, 0, 0, CENTRE, CENTRE);
  return { whole: grey(whole), centre: grey(centre) };
}

function canvas(width: number, height: number) {
  const of = document.createElement("canvas");
  of.width = width;
  of.height = height;
  const pen = of.getContext("2d", { willReadFrequently: true });
  if (!pen) throw new Error("This browser cannot look at pictures.");
  pen.imageSmoothingQuality = "high";
  return { of, pen };
}

function grey({ of, pen }: ReturnType<typeof canvas>): string {
  const { data } = pen.getImageData(0, 0, of.width, of.height);
  let text = "";
  for (let i = 0; i < data.length; i += 4) {
    const [red = 0, green = 0, blue = 0] = data.subarray(i, i + 3);
    text += String.fromCharCode(Math.round(0.299 * red + 0.587 * green + 0.114 * blue));
  }
  return btoa(text);
}
