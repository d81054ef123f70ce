import { useEffect, useEffectEvent, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { Unreachable } from "../api/client";
import type { Answer, FieldEvent, OrderLine, Person, PocketDay, Position, Question } from "../api/types";
import { calendarDay, dayTime, minutes } from "../ui/format";
import { needWords } from "../ui/need-words";
import { OrderCardHead } from "../ui/OrderCard";
import { opened } from "../ui/opened";
import { PocketStep } from "../ui/PocketStep";
import { Trouble } from "../ui/Trouble";
import { type CarriedOrder, type Carrying, useCarriedOrder } from "./carried-order";
import { plateWords } from "./day";
import { readyPhoto, standInPhoto, standInPosition, useStandIns, whereAmI } from "./devices";
import { useLocalPictures } from "./local-pictures";
import { loadPieces, now, standingWords, useOutbox, waitingAnswers } from "./outbox";
import { usePhotoDoubts } from "./photo-doubts";
import { rulesOfPage } from "./rules";
import { Loose, Unsent } from "./Unsent";
import { usePocketLists } from "./use-lists";
import "./pocket.css";

const loadCloseOut = () => import("./CloseOut").then((m) => m.CloseOut);
const loadMore = () => import("./More").then((m) => m.More);
const CloseOut = opened(loadCloseOut, null);
const More = opened(loadMore, null);
const BreakNotice = opened(() => import("./More").then((m) => m.BreakNotice), null);
const GoOn = opened(() => import("./More").then((m) => m.GoOn), null);
const loadMarkPicture = () => import("../ui/MarkPicture").then((m) => m.MarkPicture);
const MarkPicture = opened(loadMarkPicture, null);
const loadScan = () => import("./Scan").then((m) => m.Scan);
const Scan = opened(loadScan, null);
const loadHelp = () => import("./Help").then((m) => m.Help);
const Help = opened(loadHelp, null);
const loadGuide = () => import("./PocketGuide").then((m) => m.PocketGuide);
const PocketGuide = opened(loadGuide, null);
const ComingParts = opened(() => import("./PartSupplies").then((m) => m.ComingParts), null);
const PastFixes = opened(() => import("./PocketPastFixes").then((m) => m.PocketPastFixes), null);

/** One job on the phone: head out, arrive, one step after another, close out. */
export function PocketJob({ person, day }: { person: Person; day: PocketDay | null }) {
  const { order: id = "" } = useParams();
  const carrying = useCarriedOrder(person.id, id, day);
  const navigate = useNavigate();
  if (!carrying.order)
    return (
      <div className="pocket">
        <main className="pocket-body">
          {carrying.error instanceof Unreachable ? (
            <p role="alert" className="pconsequence out">
              This order is not on this phone, and there is no connection to fetch it. Orders that are taken
              along say so in your list.
            </p>
          ) : (
            <Trouble error={carrying.error} />
          )}
          {Boolean(carrying.error) && (
            <button type="button" className="pocket-other" onClick={() => navigate("/pocket")}>
              To your orders
            </button>
          )}
        </main>
      </div>
    );
  return <Job key={id} carrying={carrying} order={carrying.order} person={person} />;
}

/** What is noted of an arrival far from the site, by the rules; empty as long as they do not run. */
function useArrivalNote(
  site: OrderLine["site"],
  where: Position | null | undefined,
  isReady: boolean,
): string {
  const [words, setWords] = useState("");
  const { east, north } = where ?? {};
  const ask = useEffectEvent((place: Position) => rulesOfPage().arrival(site, place));
  useEffect(() => {
    let here = true;
    const told = isReady && east !== undefined && north !== undefined ? ask({ east, north }) : null;
    void (told ?? Promise.resolve("")).then(
      (found) => here && setWords(found),
      () => undefined,
    );
    return () => {
      here = false;
    };
  }, [east, north, isReady]);
  return words;
}

function Job({ carrying, order, person }: { carrying: Carrying; order: CarriedOrder; person: Person }) {
  const { line, job, run } = order;
  const { box, ...outbox } = useOutbox(person.id);
  const own = outbox.parcels.filter((p) => p.order === line.id);
  const ownPictures = outbox.pictures.filter((p) => p.order === line.id);
  const standIns = useStandIns();
  const lists = usePocketLists().data;
  const navigate = useNavigate();
  const far = useArrivalNote(line.site, job.visits.at(-1)?.arrived_where, carrying.isReady);
  // The step under the thumb stays until its person goes on, whatever comes down from the office.
  const [here, setHere] = useState<string | null>(null);
  const [more, setMore] = useState(false);
  const [asking, setAsking] = useState(false);
  const [scanning, setScanning] = useState<Question | null>(null);
  const [trouble, setTrouble] = useState("");
  const lastPlate = useRef("");
  const [drawing, setDrawing] = useState<{ question: Question; picture: string } | null>(null);
  const photos = usePhotoDoubts();
  const [pressed, setPressed] = useState<Record<string, Answer>>({});
  const onSite = line.state === "On site";
  const visit = job.visits.at(-1);
  const pause = onSite ? visit?.breaks.find((one) => !one.ended_at) : undefined;
  const shown = run.progress.lines.filter((l) => ["due", "done", "skipped"].includes(l.state));
  const at = here && shown.some((l) => l.line === here) ? here : run.progress.next_line;
  const current = onSite ? run.runsheet.lines.find((l) => l.id === at) : undefined;
  const place = shown.findIndex((l) => l.line === at) + 1;
  const progress = shown.find((l) => l.line === at);
  const running = current ? Boolean(job.times[current.id]?.running_since) : true;
  const [question, setQuestion] = useState<Question | null>(null);
  const camera = useRef<HTMLInputElement>(null);
  const localPictures = useLocalPictures(ownPictures);
  const addressOf = (picture: string) => localPictures.get(picture) ?? `/api/v1/pictures/${picture}`;

  // What is opened later is fetched now: by then there may be no network.
  useEffect(
    () =>
      void Promise.allSettled([
        loadCloseOut(),
        loadMore(),
        loadMarkPicture(),
        loadPieces(),
        loadHelp(),
        loadGuide(),
        loadScan(),
      ]),
    [],
  );

  // Showing a due step is starting it; the times are recorded, nobody types them.
  const begin = useEffectEvent((line: string) => {
    if (!running && !pause && progress?.state === "due")
      void carrying.record({ kind: "step started", at: now(), line });
  });
  const currentLine = current?.id;
  useEffect(() => {
    if (!currentLine) return;
    setHere(currentLine);
    begin(currentLine);
  }, [currentLine]);

  /** Record; a step that is done or left out makes way for the next. */
  async function record(...events: FieldEvent[]) {
    const isKept = await carrying.record(...events);
    const closes = (event: FieldEvent) => event.kind === "step done" || event.kind === "step skipped";
    if (isKept && events.some(closes)) setHere(null);
    return isKept;
  }

  /** Shown as pressed at once; it is recorded, or the reason why not is told, a moment later. */
  async function answer(question: string, value: Answer, reason = "") {
    const asked = current?.questions.find((one) => one.id === question);
    if (asked?.kind === "scan") lastPlate.current = String(value);
    setPressed((held) => ({ ...held, [question]: value }));
    const isKept = await record({ kind: "answered", at: now(), question, value, reason });
    setPressed(({ [question]: _recorded, ...others }) => others);
    if (asked?.kind !== "scan") return;
    // A plate that is not the order's is told with the asset that it belongs to, where that is known.
    const words = isKept ? "" : await plateWords(person.id, String(value));
    // What is known of a plate may come after what is known of a later one, which is the one to tell.
    if (lastPlate.current === String(value)) setTrouble(words);
  }

  async function withPicture(question: Question, taking: Promise<Blob>, name: string) {
    setTrouble("");
    try {
      const blob = await taking;
      const picture = await box.keepPicture({
        order: line.id,
        question: question.id,
        name,
        blob,
      });
      if (!picture) return;
      await answer(question.id, picture);
      if (question.kind === "photo") {
        const { [question.id]: _replaced, ...others } = job.answers;
        void photos.look(picture, blob, new Set(Object.values(others)));
      }
    } catch (error) {
      setTrouble(`The picture is not kept and not recorded. ${(error as Error).message}`);
    }
  }

  function takePhoto(asked: Question) {
    if (standIns) {
      void withPicture(asked, standInPhoto(`${asked.label}, ${line.asset.name}`), "photo.jpg");
      return;
    }
    setQuestion(asked);
    camera.current?.click();
  }

  function choosePicture(asked: Question) {
    setQuestion(asked);
    camera.current?.click();
  }

  async function next() {
    if (!current) return;
    await record({ kind: "step done", at: now(), line: current.id });
  }

  async function arrive() {
    const { east, north } = line.site;
    const position = standIns ? await standInPosition(east, north) : await whereAmI();
    await record({
      kind: "arrived",
      at: now(),
      east: position?.east ?? null,
      north: position?.north ?? null,
    });
  }

  return (
    <div className="pocket">
      <header className="pocket-bar">
        <div className="pocket-bar-row">
          <button
            type="button"
            className="pocket-quiet light"
            onClick={() => navigate("/pocket")}
            title="To your orders"
          >
            ‹ {line.asset.name}, {line.site.name}
          </button>
          <span role="status">{standingWords(outbox, own, ownPictures)}</span>
        </div>
        <div className="pocket-segments" aria-hidden="true">
          {shown.map((l) => (
            <i key={l.line} data-state={l.line === at && onSite ? "here" : l.state} />
          ))}
        </div>
      </header>
      <main
        className="pocket-body"
        data-recorded={outbox.kept.filter((p) => !p.checkedBy).at(-1)?.n ?? 0}
        data-rules={carrying.isReady ? "here" : "loading"}
      >
        {[outbox.lost, trouble, carrying.refused].filter(Boolean).map((words) => (
          <p key={words} role="alert" className="pconsequence out">
            {words}
          </p>
        ))}
        {!carrying.isReady && own.length > 0 && (
          <p role="status" className="pconsequence">
            Recorded on this phone. What follows from it is shown in a moment.
          </p>
        )}
        {carrying.news && (
          <p role="status" className="pconsequence">
            {carrying.news}
          </p>
        )}
        {onSite && far && (
          <p role="status" className="pconsequence">
            {far} It is noted with the visit; go on.
          </p>
        )}
        <Unsent
          parcels={own.filter((p) => p.refusal)}
          pictures={ownPictures.filter((p) => p.refusal)}
          box={box}
          page={order}
        />
        <Loose lines={order.loose} />
        <input
          ref={camera}
          type="file"
          accept="image/jpeg,image/png,image/webp"
          capture="environment"
          hidden
          aria-label="Photo"
          onChange={(e) => {
            const file = e.currentTarget.files?.[0];
            e.currentTarget.value = "";
            if (file && question) void withPicture(question, readyPhoto(file), file.name || "photo.jpg");
          }}
        />
        {!onSite && <Before page={order} />}
        {!onSite && Object.keys(job.supplies).length > 0 && <ComingParts page={order} record={record} />}
        {!onSite && <PastFixes page={order} record={record} />}
        {line.state === "Heading out" && !standIns && !window.isSecureContext && (
          <p className="pconsequence">
            This page is not opened over HTTPS, so the browser does not tell where the phone is. Your arrival
            is recorded without a place.
          </p>
        )}
        {pause && <BreakNotice since={pause.began_at} />}
        {onSite && run.guide && ["Diagnose", "Put right", "Prove"].includes(current?.phase ?? "Prove") && (
          <PocketGuide page={order} current={current?.id ?? null} record={record} onJump={setHere} />
        )}
        {onSite && current && (
          <PocketStep
            key={current.id}
            line={current}
            needs={needWords(current, lists)}
            place={`${current.phase}, step ${place} of ${shown.length}`}
            answers={{
              ...(job.answers as Record<string, Answer>),
              ...waitingAnswers(own, line.id),
              ...pressed,
            }}
            asked={progress?.asked ?? []}
            consequences={run.consequences}
            wanted={run.wanted}
            computed={run.computed}
            offered={run.offered}
            lastMeters={run.last_meters}
            onAnswer={answer}
            takePhoto={takePhoto}
            photoDoubts={photos.doubts}
            choosePicture={standIns ? choosePicture : undefined}
            sign={(question, drawing) => withPicture(question, Promise.resolve(drawing), "signature.png")}
            scan={setScanning}
            marks={job.marks}
            draw={(asked, picture) => setDrawing({ question: asked, picture })}
            pictureOf={addressOf}
          />
        )}
        {onSite && !current && <CloseOut page={order} record={record} />}
      </main>
      <footer className="pocket-foot">
        {(line.state === "Planned" || line.state === "Return needed") && (
          <button
            type="button"
            className="pocket-main"
            onClick={() => record({ kind: "headed out", at: now() })}
          >
            Head out
          </button>
        )}
        {line.state === "Heading out" && (
          <button type="button" className="pocket-main" onClick={arrive}>
            I have arrived
          </button>
        )}
        {onSite && (
          <button type="button" className="pocket-other" onClick={() => setMore(true)}>
            More
          </button>
        )}
        {onSite && (
          <button type="button" className="pocket-other" onClick={() => setAsking(true)}>
            {Object.values(job.help).some((thread) => thread.ended_at === null) ? "Question" : "Ask for help"}
          </button>
        )}
        {pause && <GoOn line={progress?.state === "due" ? current?.id : undefined} record={record} />}
        {current && !pause && (
          <button
            type="button"
            className="pocket-main"
            disabled={(progress?.missing.length ?? 0) > 0}
            onClick={next}
          >
            Next
          </button>
        )}
        {["Finished", "Reviewed", "Cancelled"].includes(line.state) && (
          <button type="button" className="pocket-main" onClick={() => navigate("/pocket")}>
            To your orders
          </button>
        )}
      </footer>
      {scanning && (
        <Scan
          label={scanning.label}
          standIn={standIns ? (scanning.kind === "scan" && scanning.equals) || line.asset.serial : null}
          onCode={(code) => {
            setScanning(null);
            void answer(scanning.id, code);
          }}
          onClose={() => setScanning(null)}
        />
      )}
      {drawing && (
        <MarkPicture
          src={addressOf(drawing.picture)}
          label={drawing.question.label}
          marks={job.marks[drawing.picture] ?? []}
          onClose={() => setDrawing(null)}
          onKeep={(marks) => {
            void record({ kind: "picture marked", at: now(), picture: drawing.picture, marks });
            setDrawing(null);
          }}
        />
      )}
      {onSite && asking && (
        <Help
          page={order}
          line={current ?? null}
          standIns={standIns}
          record={record}
          keepPicture={(blob) =>
            box.keepPicture({ order: line.id, question: "", name: "question.jpg", blob })
          }
          addressOf={addressOf}
          onClose={() => setAsking(false)}
        />
      )}
      {onSite && more && (
        <More
          shown={more}
          page={order}
          current={current?.id ?? null}
          record={record}
          keepPicture={(blob, name) => box.keepPicture({ order: line.id, question: "", name, blob })}
          standIns={standIns}
          onJump={(to) => {
            setHere(to);
            setMore(false);
          }}
          onClose={() => setMore(false)}
        />
      )}
    </div>
  );
}

function Before({ page }: { page: CarriedOrder }) {
  const { line } = page;
  const done = ["Finished", "Reviewed", "Cancelled"].includes(line.state);
  const last = page.job.visits.at(-1);
  return (
    <>
      <OrderCardHead order={line} state={line.state} lines={page.card} />
      {line.state === "Return needed" && last && (
        <p className="pconsequence">
          You left with a return needed: {last.reason}. {last.note}
        </p>
      )}
      {!done && (
        <p>
          {line.planned_for && <>Planned for {dayTime(line.planned_for)}. </>}
          {line.due_on && <>Routine visit, to be made by {calendarDay(line.due_on)}. </>}
          {page.run.progress.lines.filter((l) => l.state === "due").length} steps, about{" "}
          {minutes(page.run.progress.minutes_left)}, perhaps {minutes(page.run.progress.minutes_open)} more.
        </p>
      )}
      {done && <p className="pconsequence">This job is {line.state.toLowerCase()}. Thank you.</p>}
    </>
  );
}
