import { Drawer } from "@mantine/core";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { Look } from "../ui/Look";
import { fetchReader, readCode } from "./scanner";
import { standInPlate } from "./stand-in-plate";
import "../ui/pocket-step.css";
import "./pocket.css";

// Whoever loads this page may be without a network by the time a code is to be read.
void fetchReader();

const EVERY_MS = 200;
const NO_CODE =
  "No code can be read in this picture. Take it closer and straight on, or type what the plate says.";

interface ScanProps {
  label: string;
  /** What the plate in front of the stand-in scanner carries; nothing where the scanner is a real one. */
  standIn: string | null;
  onCode: (code: string) => void;
  onClose: () => void;
}

/** Reads a code off a plate: with the camera held to it, from a picture, or off the stand-in's plate. */
export function Scan(props: ScanProps) {
  return (
    <Look>
      <ScanDrawer {...props} />
    </Look>
  );
}

function ScanDrawer({ label, standIn, onCode, onClose }: ScanProps) {
  const [trouble, setTrouble] = useState("");
  const [picture, setPicture] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);

  async function read(blob: Blob) {
    setTrouble("");
    setPicture(URL.createObjectURL(blob));
    const code = await readCode(blob).catch(() => null);
    if (code) onCode(code);
    else setTrouble(NO_CODE);
  }
  const readStandIn = useEffectEvent(async (plate: string) => read(await standInPlate(plate)));
  useEffect(() => {
    if (standIn !== null) void readStandIn(standIn);
  }, [standIn]);
  useEffect(() => () => void (picture && URL.revokeObjectURL(picture)), [picture]);

  return (
    <Drawer
      opened
      onClose={onClose}
      position="bottom"
      size="auto"
      title={label}
      classNames={{ content: "pocket-drawer" }}
    >
      <section>
        {standIn === null && !picture && !trouble && <LiveView onCode={onCode} onTrouble={setTrouble} />}
        {picture && <img className="scan-view" src={picture} alt="What is in front of the scanner" />}
        {trouble && (
          <p role="alert" className="pconsequence out">
            {trouble}
          </p>
        )}
        <input
          ref={file}
          type="file"
          accept="image/*"
          capture="environment"
          hidden
          aria-label="Picture of the code"
          onChange={(e) => {
            const taken = e.currentTarget.files?.[0];
            e.currentTarget.value = "";
            if (taken) void read(taken);
          }}
        />
        <div className="pocket-two">
          <button type="button" className="pocket-other" onClick={onClose}>
            Close
          </button>
          <button type="button" className="pocket-other" onClick={() => file.current?.click()}>
            Take a picture of the code
          </button>
        </div>
      </section>
    </Drawer>
  );
}

/** The camera's view; the first code that is in it is read. */
function LiveView({
  onCode,
  onTrouble,
}: {
  onCode: (code: string) => void;
  onTrouble: (words: string) => void;
}) {
  const view = useRef<HTMLVideoElement>(null);
  const found = useEffectEvent(onCode);
  const told = useEffectEvent(onTrouble);
  useEffect(() => {
    let here = true;
    let stream: MediaStream | null = null;
    const canvas = document.createElement("canvas");
    const look = async () => {
      const video = view.current;
      if (!here || !video) return;
      const pen = canvas.getContext("2d", { willReadFrequently: true });
      if (pen && video.videoWidth > 0) {
        canvas.width = video.videoWidth;
        canvas.height = video.videoHeight;
        pen.drawImage(video, 0, 0);
        const code = await readCode(pen.getImageData(0, 0, canvas.width, canvas.height)).catch(() => null);
        if (code && here) {
          here = false;
          found(code);
          return;
        }
      }
      window.setTimeout(() => void look(), EVERY_MS);
    };
    const begin = async () => {
      if (!navigator.mediaDevices?.getUserMedia) {
        told(
          "This browser shows no live view here. Take a picture of the code, or type what the plate says.",
        );
        return;
      }
      try {
        stream = await navigator.mediaDevices.getUserMedia({
          video: { facingMode: "environment", width: { ideal: 1280 } },
        });
      } catch {
        told(
          "The camera cannot be used. Allow it in the browser, take a picture, or type what the plate says.",
        );
        return;
      }
      if (!here || !view.current) {
        for (const track of stream.getTracks()) track.stop();
        return;
      }
      view.current.srcObject = stream;
      await view.current.play().catch(() => undefined);
      void look();
    };
    void begin();
    return () => {
      here = false;
      for (const track of stream?.getTracks() ?? []) track.stop();
    };
  }, []);
  return (
    <>
      <p className="flush">Hold the code in view. It is read by itself.</p>
      <video ref={view} className="scan-view" muted playsInline aria-label="What the camera sees" />
    </>
  );
}
