import { prepareZXingModule, type ReadInputBarcodeFormat, readBarcodes } from "zxing-wasm/reader";
import wasm from "zxing-wasm/reader/zxing_reader.wasm?url";

prepareZXingModule({ overrides: { locateFile: () => wasm } });

/** What stands on plates and labels: square codes and the bar codes of parts. */
const FORMATS: ReadInputBarcodeFormat[] = [
  "QRCode",
  "DataMatrix",
  "Code128",
  "Code39",
  "EAN13",
  "EAN8",
  "UPCA",
];

/** The text of a code in a picture; nothing where there is none that can be read. */
export async function readCode(picture: Blob | ImageData): Promise<string | null> {
  const found = await readBarcodes(picture, { formats: FORMATS, maxNumberOfSymbols: 1 });
  return found.find((code) => code.isValid)?.text.trim() || null;
}

/** Have the reader here before there is no network. */
export const fetchReader = () =>
  fetch(wasm).then(
    () => undefined,
    () => undefined,
  );
