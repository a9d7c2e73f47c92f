// The kinds of application, each with its sub-kinds beneath it.
import type { ReactNode } from "react";
import type { Schemas } from "../api/client";
import { say } from "../shared/text";

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
        {say("{{law}}, edition in force from {{in_force}}", { law: kind.law, in_force: kind.in_force })}
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
                <section
                  key={sub.kind}
                  className="jc-sub-kind"
                  aria-label={say("Belongs to {{title}}", { title: kind.title })}
                >
                  {one(sub)}
                </section>
              ))}
          </li>
        ))}
    </ul>
  );
}
