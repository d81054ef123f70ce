import { client, need, Unreachable } from "../api/client";

/** Take a picture with the stand-in camera and hand it in; gives the picture's identity. */
export async function sendPhoto(order: string, of: string): Promise<string> {
  const taken = await fetch(`/standins/camera.jpg?of=${encodeURIComponent(of)}`).catch(() => null);
  if (!taken?.ok) throw new Unreachable();
  return sendPicture(order, await taken.blob(), "photo.jpg");
}

/** Hand in a picture that is there, such as a signature; gives its identity. */
export async function sendPicture(order: string, data: Blob, name: string): Promise<string> {
  const picture = crypto.randomUUID();
  const form = new FormData();
  form.append("file", data, name);
  await need(
    client.POST("/api/pocket/orders/{order_id}/pictures/{picture_id}", {
      params: { path: { order_id: order, picture_id: picture } },
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

/** Where the stand-in receiver believes the phone is; nothing when it cannot tell. */
export async function whereAmI(east: number, north: number): Promise<{ east: number; north: number } | null> {
  try {
    return await need(client.GET("/standins/position", { params: { query: { east, north } } }));
  } catch {
    return null;
  }
}
