import { abort, addCallback, isSpeechRecognitionSupported, setLanguage, start } from "annyang";
import { useEffect, useRef, useState } from "react";

const MAY_NOT_LISTEN = "This browser may not listen. Allow the microphone for this page.";
const NOT_WRITTEN_DOWN = "What was said could not be written down. The browser may need a network for it.";

/** Writes down what is said, where the browser can; nothing where it cannot. */
export function Dictate({ onWords }: { onWords: (words: string) => void }) {
  const [isOn, setOn] = useState(false);
  const [trouble, setTrouble] = useState("");
  const leave = useRef<() => void>(() => undefined);
  const tell = useRef(onWords);
  tell.current = onWords;
  useEffect(() => () => leave.current(), []);
  if (!isSpeechRecognitionSupported()) return null;

  function listen() {
    // The browser has one listener for the whole page: what another place asked of it is over.
    abort();
    const callbacks = [
      addCallback("result", ([likeliest = ""]) => likeliest.trim() && tell.current(likeliest.trim())),
      addCallback("error", () => setTrouble((told) => told || NOT_WRITTEN_DOWN)),
      addCallback("errorPermissionBlocked", () => setTrouble(MAY_NOT_LISTEN)),
      addCallback("errorPermissionDenied", () => setTrouble(MAY_NOT_LISTEN)),
      addCallback("end", () => leave.current()),
    ];
    leave.current = () => {
      leave.current = () => undefined;
      for (const takeOff of callbacks) takeOff();
      abort();
      setOn(false);
    };
    setTrouble("");
    setOn(true);
    setLanguage(navigator.language);
    start({ autoRestart: false, continuous: false });
  }

  return (
    <>
      <button
        type="button"
        className="pocket-quiet"
        aria-pressed={isOn}
        onClick={() => (isOn ? leave.current() : listen())}
      >
        {isOn ? "Stop listening" : "Say it instead"}
      </button>
      {trouble && <p role="alert">{trouble}</p>}
    </>
  );
}
