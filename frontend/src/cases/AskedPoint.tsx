// A point of a letter as the applicant meets it in the case.
import type { ReactNode } from "react";
import { Tab } from "../shared/Marks";
import { say } from "../shared/text";
import "./answering.css";

export function AskedPoint({
  point,
  needs,
  children,
}: {
  point: { no: number; title: string; article: string; text: string };
  /** What is still missing; nothing once it is answered. */
  needs: string;
  children: ReactNode;
}) {
  return (
    <section
      data-point={point.no}
      tabIndex={-1}
      className={`answering-point${needs ? "" : " answered"}`}
      aria-label={say("Point {{no}}", { no: point.no })}
    >
      <Tab standing={needs ? "wanting" : "to read"} given />
      <h2>
        <span>{point.no}</span> {point.title}{" "}
        {point.article && <small>{say("art. {{article}}", { article: point.article })}</small>}
      </h2>
      <p>{point.text}</p>
      {children}
      <p className={needs ? "madder" : "moss"} role="status">
        {needs ? say("still needs {{needs}}", { needs }) : say("answered")}
      </p>
    </section>
  );
}
