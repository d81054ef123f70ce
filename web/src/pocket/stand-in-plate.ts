import { toCanvas } from "qrcode";

/** A photo of a type plate that carries a code, as the stand-in scanner sees it: askew, on painted steel. */
export async function standInPlate(serial: string): Promise<Blob> {
  const code = document.createElement("canvas");
  await toCanvas(code, serial, { margin: 3, scale: 6, errorCorrectionLevel: "M" });
  const photo = document.createElement("canvas");
  photo.width = 640;
  photo.height = 440;
  const pen = photo.getContext("2d");
  if (!pen) throw new Error("This browser draws no pictures.");
  pen.fillStyle = "#5f6d62";
  pen.fillRect(0, 0, photo.width, photo.height);
  pen.translate(photo.width / 2, photo.height / 2);
  pen.rotate(-0.07);
  pen.fillStyle = "#d9d4c8";
  pen.fillRect(-260, -160, 520, 320);
  pen.drawImage(code, -235, -code.height / 2);
  pen.fillStyle = "#23201d";
  pen.font = "26px sans-serif";
  pen.fillText("Serial", 20, -20);
  pen.font = "bold 32px sans-serif";
  pen.fillText(serial.slice(0, 14), 20, 24);
  return new Promise((resolve, reject) =>
    photo.toBlob((made) => (made ? resolve(made) : reject(new Error("No picture."))), "image/jpeg", 0.85),
  );
}
