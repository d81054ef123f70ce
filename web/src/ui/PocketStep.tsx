import type { Answer, Question, RunsheetLine } from "../api/types";
import type { PocketStepProps } from "./pocket-step-props";
import { QuestionInput } from "./QuestionInput";
import "./pocket-step.css";

/** One step as a technician meets it: the verb first, the answer large, the consequence at once. */
export function PocketStep(props: PocketStepProps) {
  const { line, place, asked } = props;
  return (
    <article className="pstep" aria-label={line.text}>
      <p className="pstep-place" data-phase={line.phase}>
        {place}
      </p>
      <h2>{line.text}</h2>
      {line.detail && <p className="pstep-detail">{line.detail}</p>}
      <Pictures ids={line.pictures} />
      {props.needs && <p className="pstep-detail">{props.needs}</p>}
      {line.questions
        .filter((question) => asked.includes(question.id))
        .map((question) => (
          <Field key={question.id} question={question} {...props} />
        ))}
      <Links links={line.links} />
      {props.children}
    </article>
  );
}

export function Links({ links }: { links: RunsheetLine["links"] }) {
  const safe = links.filter((link) => /^(https?:\/\/|\/)/.test(link.address));
  if (safe.length === 0) return null;
  return (
    <ul className="pstep-links">
      {safe.map((link) => (
        <li key={link.address + link.title}>
          <a href={link.address} target="_blank" rel="noreferrer">
            {link.title}
          </a>
        </li>
      ))}
    </ul>
  );
}

function Pictures({ ids }: { ids: string[] }) {
  return ids.map((id) => (
    <img key={id} className="pstep-picture" src={`/api/v1/illustrations/${id}`} alt="How to do it" />
  ));
}

function Field({ question, ...props }: PocketStepProps & { question: Question }) {
  const consequence = props.consequences[question.id];
  const outside = Boolean(consequence?.severity);
  const offer = props.offered[question.id];
  if (question.kind === "instruction")
    return (
      <div className="pquestion">
        <div className="pquestion-label">{question.label}</div>
        {question.detail && <p className="pstep-detail">{question.detail}</p>}
        <Pictures ids={question.pictures} />
      </div>
    );
  return (
    <div className="pquestion">
      {question.kind !== "tick" && question.kind !== "safety" && (
        <div className="pquestion-label">
          {question.label}
          {question.required === "never" && <span className="popt"> if there is something to say</span>}
        </div>
      )}
      {question.detail && <p className="pstep-detail">{question.detail}</p>}
      <QuestionInput question={question} outside={outside} {...props} />
      {offer && (
        <button
          type="button"
          className="pchoice offer"
          onClick={() => props.onAnswer(question.id, offer.answer as Answer)}
        >
          Use {offer.words}, from {offer.source}
        </button>
      )}
      {consequence?.sentence && (
        <p className={outside ? "pconsequence out" : "pconsequence"} role="status">
          {outside && <b>{consequence.severity}. </b>}
          {consequence.sentence}
        </p>
      )}
    </div>
  );
}
