// The kinds of application, each with its sub-kinds beneath it.
import type { ReactNode } from "react";
import type { Schemas } from "../api/client";

type Kind = Schemas["KindOut"];

export function KindCards({
  kinds,
  className,
  level,
  foot,
}: {
  kinds: Kind[];
  className: string;
  level: "h2" | "h3";
  foot: (kind: Kind) => ReactNode;
}) {
  const Title = level;
  const one = (kind: Kind) => (
    <>
      <Title>{kind.title}</Title>
      <p>{kind.about}</p>
      <p className="second">
        {kind.law}, edition in force from {kind.in_force}
      </p>
      {foot(kind)}
    </>
  );
  return (
    <ul className={className}>
      {kinds
        .filter((kind) => !kind.sub_kind_of)
        .map((kind) => (
          <li key={kind.kind}>
            {one(kind)}
            {kinds
              .filter((sub) => sub.sub_kind_of === kind.kind)
              .map((sub) => (
                <section key={sub.kind} className="jc-sub-kind" aria-label={`Belongs to ${kind.title}`}>
                  {one(sub)}
                </section>
              ))}
          </li>
        ))}
    </ul>
  );
}
