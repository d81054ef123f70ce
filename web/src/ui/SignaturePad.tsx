import { type PointerEvent, useRef, useState } from "react";

/** A name signed on the glass; what was drawn becomes a picture. */
export function SignaturePad({
  label,
  signed,
  onSign,
}: {
  label: string;
  /** Where the signature shows, if it is given; null while it is not. */
  signed: string | null;
  onSign: (drawing: Blob) => void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [drawn, setDrawn] = useState(false);
  const [again, setAgain] = useState(false);

  if (signed !== null && !again)
    return (
      <div className="psign">
        {signed && <img src={signed} alt={`Signature, ${label}`} />}
        <button type="button" className="pchoice" onClick={() => setAgain(true)}>
          ✓ Signed. Sign again
        </button>
      </div>
    );

  function at(event: PointerEvent<HTMLCanvasElement>) {
    const box = event.currentTarget.getBoundingClientRect();
    return {
      x: ((event.clientX - box.left) / box.width) * event.currentTarget.width,
      y: ((event.clientY - box.top) / box.height) * event.currentTarget.height,
    };
  }
  function begin(event: PointerEvent<HTMLCanvasElement>) {
    event.currentTarget.setPointerCapture(event.pointerId);
    const ink = event.currentTarget.getContext("2d");
    if (!ink) return;
    if (!drawn) {
      ink.fillStyle = "#fffefb";
      ink.fillRect(0, 0, event.currentTarget.width, event.currentTarget.height);
    }
    const { x, y } = at(event);
    ink.lineWidth = 3;
    ink.lineCap = "round";
    ink.strokeStyle = "#23201d";
    ink.beginPath();
    ink.moveTo(x, y);
    setDrawn(true);
  }
  function draw(event: PointerEvent<HTMLCanvasElement>) {
    if (event.buttons === 0) return;
    const ink = event.currentTarget.getContext("2d");
    const { x, y } = at(event);
    ink?.lineTo(x, y);
    ink?.stroke();
  }
  return (
    <div className="psign">
      <canvas
        ref={canvas}
        width={600}
        height={200}
        aria-label={`Sign here, ${label}`}
        onPointerDown={begin}
        onPointerMove={draw}
      />
      <button
        type="button"
        className="pchoice"
        disabled={!drawn}
        onClick={() =>
          canvas.current?.toBlob((drawing) => {
            if (drawing) onSign(drawing);
            setAgain(false);
            setDrawn(false);
          }, "image/png")
        }
      >
        Keep signature
      </button>
    </div>
  );
}
