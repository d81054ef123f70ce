import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex } from "@noble/hashes/utils.js";
import { client, mayPass, need, Refused, Unreachable } from "../api/client";
import { dropPicture, type KeptPicture, notePicture } from "./device-store";

/** Bytes of one piece: small enough to get through a line that fails often. */
const PIECE = 256_000;
/** How often a picture begins anew after a damaged piece before it waits for the next time. */
const TRIES = 5;

/** How often a piece that did not get through is sent again at once, before the picture waits for the next time. */
const TRIES_OF_PIECE = 4;
/** Before it is sent again the first time, in milliseconds; each time after that twice as long. */
const PAUSE_MS = 300;

/** The hash of a picture's bytes, in hexadecimal. Also where the page is not served over HTTPS. */
export async function hashOf(blob: Blob): Promise<string> {
  return bytesToHex(sha256(new Uint8Array(await blob.arrayBuffer())));
}

/**
 * Send a picture piece by piece from where the server has it, each checked by its hash. It leaves the device
 * once the server says that it keeps it; "held" when it has to wait, "refused" when it is noted why.
 */
export async function sendPicture(picture: KeptPicture): Promise<"sent" | "held" | "refused"> {
  for (let n = 0; n < TRIES; n++) {
    try {
      await overAPoorLine(picture);
      await dropPicture(picture.id);
      return "sent";
    } catch (error) {
      const damaged = error instanceof Refused && error.problem.code === "pictures.damaged";
      if (damaged) continue;
      if (!(error instanceof Refused) || mayPass(error) || error.status === 403) return "held";
      await notePicture(picture.id, { code: error.problem.code, detail: error.message, at: Date.now() });
      return "refused";
    }
  }
  return "held";
}

/**
 * As {@link sendFromWhereItIs}, begun again after a request that did not get through, as long as pieces do. Over a
 * line that is down nothing is tried again here: a smaller picture may be waiting by the time it is up.
 */
async function overAPoorLine(picture: KeptPicture): Promise<void> {
  let failed = TRIES_OF_PIECE;
  const gotThrough = () => {
    failed = 0;
  };
  for (;;) {
    try {
      return await sendFromWhereItIs(picture, gotThrough);
    } catch (error) {
      if (!(error instanceof Unreachable) || failed >= TRIES_OF_PIECE) throw error;
      await new Promise((later) => setTimeout(later, PAUSE_MS * 2 ** failed));
      failed += 1;
    }
  }
}

async function sendFromWhereItIs(picture: KeptPicture, gotThrough: () => void): Promise<void> {
  const size = picture.blob.size;
  let told = await need(
    client.PUT("/api/v1/pocket/pictures/{picture_id}", {
      params: { path: { picture_id: picture.id } },
      body: { order: picture.order, question: picture.question, size, sha256: picture.sha256 },
    }),
  );
  while (!told.is_kept) {
    const piece = picture.blob.slice(told.have, told.have + PIECE);
    const form = new FormData();
    form.append("file", piece, "piece");
    told = await need(
      client.POST("/api/v1/pocket/pictures/{picture_id}/pieces", {
        params: {
          path: { picture_id: picture.id },
          query: { at: told.have, sha256: await hashOf(piece) },
        },
        body: form as unknown as { file: string },
        bodySerializer: (body) => body as unknown as FormData,
      }),
    );
    gotThrough();
  }
}
