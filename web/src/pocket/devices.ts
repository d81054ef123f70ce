import { v4 as newId } from "uuid";
import { client, need, Unreachable } from "../api/client";

/** A photo is made smaller than this before it is sent; the server takes no larger one. */
const MAX_BYTES = 11_000_000;
const MAX_SIDE = 4_000;

/** Take a picture with the stand-in camera. */
export async function standInPhoto(of: string): Promise<Blob> {
  const taken = await fetch(`/standins/camera.jpg?of=${encodeURIComponent(of)}`).catch(() => null);
  if (!taken?.ok) throw new Unreachable();
  return taken.blob();
}

/** A picture from the camera or a file, small enough to be sent; unchanged where it is already. */
export async function readyPhoto(file: Blob): Promise<Blob> {
  if (file.size <= MAX_BYTES && ["image/jpeg", "image/png", "image/webp"].includes(file.type)) return file;
  let picture: ImageBitmap;
  try {
    picture = await createImageBitmap(file);
  } catch {
    throw new Error("This file is not a picture that this browser can read. Take a JPEG or PNG.");
  }
  const scale = Math.min(1, MAX_SIDE / Math.max(picture.width, picture.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(picture.width * scale);
  canvas.height = Math.round(picture.height * scale);
  canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
  picture.close();
  return new Promise((resolve, reject) =>
    canvas.toBlob(
      (made) => (made ? resolve(made) : reject(new Error("The picture could not be made smaller."))),
      "image/jpeg",
      0.88,
    ),
  );
}

/** Hand in a picture that is there; gives its identity. */
export async function sendPicture(
  order: string,
  data: Blob,
  name: string,
  question: string,
): Promise<string> {
  const picture = newId();
  const form = new FormData();
  form.append("file", data, name);
  await need(
    client.POST("/api/v1/pocket/orders/{order_id}/pictures/{picture_id}", {
      params: { path: { order_id: order, picture_id: picture }, query: { question } },
      body: form as unknown as { file: string },
      bodySerializer: (body) => body as unknown as FormData,
    }),
  );
  return picture;
}

/** What the stand-in scanner reads off the plate in front of it; nothing when it reads nothing. */
export async function scanPlate(plate: string): Promise<string | null> {
  try {
    return (await need(client.GET("/standins/scanner", { params: { query: { plate } } }))).code;
  } catch {
    return null;
  }
}

export interface Position {
  east: number;
  north: number;
}

/** Where the stand-in receiver believes the phone is; nothing when it cannot tell. */
export async function standInPosition(east: number, north: number): Promise<Position | null> {
  try {
    return await need(client.GET("/standins/position", { params: { query: { east, north } } }));
  } catch {
    return null;
  }
}

/** Where the browser says the phone is; nothing where it cannot or may not tell, as over plain HTTP. */
export function whereAmI(): Promise<Position | null> {
  if (!window.isSecureContext || !("geolocation" in navigator)) return Promise.resolve(null);
  return new Promise((resolve) =>
    navigator.geolocation.getCurrentPosition(
      ({ coords }) => resolve({ east: coords.longitude, north: coords.latitude }),
      () => resolve(null),
      { timeout: 5_000, maximumAge: 60_000 },
    ),
  );
}
