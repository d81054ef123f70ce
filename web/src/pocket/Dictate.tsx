import { useEffect, useRef, useState } from "react";

/** As the Web Speech API has it; browsers that have it at all may have it under their own prefix. */
interface Recogniser extends EventTarget {
  lang: string;
  interimResults: boolean;
  start(): void;
  stop(): void;
  onresult: ((event: { results: ArrayLike<ArrayLike<{ transcript: string }>> }) => void) | null;
  onerror: ((event: { error: string }) => void) | null;
  onend: (() => void) | null;
}
type Recognisers = {
  SpeechRecognition?: new () => Recogniser;
  webkitSpeechRecognition?: new () => Recogniser;
};

const WHY: Record<string, string> = {
  "not-allowed": "This browser may not listen. Allow the microphone for this page.",
  "no-speech": "Nothing was heard.",
  network: "This browser needs a network to write down what it hears.",
};

/** Writes down what is said, where the browser can; nothing where it cannot. */
export function Dictate({ onWords }: { onWords: (words: string) => void }) {
  const [isOn, setOn] = useState(false);
  const [trouble, setTrouble] = useState("");
  const listening = useRef<Recogniser | null>(null);
  useEffect(() => () => listening.current?.stop(), []);
  const { SpeechRecognition, webkitSpeechRecognition } = window as Recognisers;
  const Offered = SpeechRecognition ?? webkitSpeechRecognition;
  if (!Offered) return null;

  function listen(Listener: new () => Recogniser) {
    const heard = new Listener();
    heard.lang = navigator.language;
    heard.interimResults = false;
    heard.onresult = ({ results }) => {
      const words = Array.from(results, (one) => one[0]?.transcript.trim() ?? "").join(" ");
      if (words) onWords(words);
    };
    heard.onerror = ({ error }) => setTrouble(WHY[error] ?? "What was said could not be written down.");
    heard.onend = () => setOn(false);
    listening.current = heard;
    setTrouble("");
    setOn(true);
    heard.start();
  }

  return (
    <>
      <button
        type="button"
        className="pocket-quiet"
        aria-pressed={isOn}
        onClick={() => (isOn ? listening.current?.stop() : listen(Offered))}
      >
        {isOn ? "Stop listening" : "Say it instead"}
      </button>
      {trouble && <p role="alert">{trouble}</p>}
    </>
  );
}
