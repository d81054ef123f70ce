import type { ReactNode } from "react";
import type { Answer, Answers, Consequence, Offer, PictureMark, Question, RunsheetLine } from "../api/types";

export interface PocketStepProps {
  line: RunsheetLine;
  place: string;
  /** What the step takes and what it is done with, in words. */
  needs: string;
  answers: Answers;
  /** The questions that are wanted, by identity; a question that is not wanted is not shown. */
  asked: string[];
  consequences: Record<string, Consequence>;
  wanted: Record<string, string>;
  computed: Record<string, string>;
  offered: Record<string, Offer>;
  lastMeters: Record<string, string>;
  onAnswer: (question: string, value: Answer, reason?: string) => void;
  takePhoto: (question: Question) => void;
  /** What is to be doubted of photos, in words by picture. */
  photoDoubts?: Record<string, string>;
  /** Where a stand-in camera takes photos: a picture that is there already. */
  choosePicture?: (question: Question) => void;
  sign: (question: Question, drawing: Blob) => void;
  scan: (question: Question) => void;
  pictureOf?: (answer: string) => string;
  /** What is drawn on each picture. */
  marks?: Record<string, PictureMark[]>;
  /** Open a picture to draw on it. */
  draw?: (question: Question, picture: string) => void;
  children?: ReactNode;
}
