import { useEffect } from "react";
import { client, need, Unreachable } from "../api/client";
import { useSignInPage } from "../api/queries";
import type { Position } from "../api/types";

const STAND_INS = "reedling-stand-ins";

/** A photo is made smaller than this before it is sent; the server takes no larger one. */
const MAX_BYTES = 11_000_000;
const MAX_SIDE = 4_000;

/** Whether stand-in devices are offered; remembered for when there is no network. */
export function useStandIns(): boolean {
  const told = useSignInPage().data?.stand_ins;
  useEffect(() => {
    if (told !== undefined) localStorage.setItem(STAND_INS, told ? "yes" : "");
  }, [told]);
  return told ?? localStorage.getItem(STAND_INS) === "yes";
}

/** Take a picture with the stand-in camera; drawn here when the one of the server cannot be reached. */
export async function standInPhoto(of: string): Promise<Blob> {
  const taken = await fetch(`/standins/camera.jpg?of=${encodeURIComponent(of)}`).catch(() => null);
  return taken?.ok ? taken.blob() : drawnPhoto(of);
}

function drawnPhoto(of: string): Promise<Blob> {
  const canvas = document.createElement("canvas");
  canvas.width = 960;
  canvas.height = 720;
  const pen = canvas.getContext("2d");
  if (pen) {
    pen.fillStyle = "#8d9ba3";
    pen.fillRect(0, 0, 960, 720);
    pen.fillStyle = "#5f6d62";
    for (let x = 40; x < 960; x += 130) pen.fillRect(x, 180 + (x % 90), 90, 480);
    pen.fillStyle = "#23201d";
    pen.font = "30px sans-serif";
    pen.fillText(of.slice(0, 55), 40, 80);
    pen.fillText(new Date().toLocaleString("en-GB"), 40, 125);
  }
  return new Promise((resolve, reject) =>
    canvas.toBlob((made) => (made ? resolve(made) : reject(new Error("No picture."))), "image/jpeg", 0.85),
  );
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

/** Where the stand-in receiver believes the phone is; nothing when it cannot tell. */
export async function standInPosition(east: number, north: number): Promise<Position | null> {
  try {
    return await need(client.GET("/standins/position", { params: { query: { east, north } } }));
  } catch (error) {
    return error instanceof Unreachable ? { east, north } : null;
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
