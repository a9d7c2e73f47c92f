// The same file in other cases, and pages that are nearly the same as pages of other files: the office's alone.
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { say } from "../shared/text";
import type { Requirement } from "./checks";
import type { Side } from "./TwoFiles";
import { type CaseView, fileUrl, path } from "./useCase";
import "./rule.css";

type Alike = Schemas["AlikePage"];

/** So many of them are told for one requirement. */
const MOST = 4;

export function AlikePages({
  view,
  requirement: r,
  onCompare,
}: {
  view: CaseView;
  requirement: Requirement;
  onCompare: (two: [Side, Side]) => void;
}) {
  const files = r.files.map((f) => f.id);
  const found = useQuery({
    queryKey: ["alike", view.reference, view.assessment.version],
    queryFn: () => ask(api.GET("/api/cases/{reference}/alike", { params: path(view.reference) })),
    enabled: files.length > 0,
    staleTime: 60_000,
  });
  const own = (found.data ?? []).filter((a) => files.includes(a.file));
  const compare = (a: Alike) => {
    const mine = view.versions.at(-1)?.files.find((f) => f.attachment.id === a.file);
    if (!mine) return;
    const other = { name: a.name || a.reference, size: 0, sha256: a.sha256 };
    const its = { attachment: other, type: a.type, opens: "yes", said: "" };
    onCompare([
      {
        url: fileUrl(view.reference, mine),
        label: `${view.reference}, ${mine.attachment.name}`,
        file: mine,
        page: a.page,
      },
      {
        url: fileUrl(a.reference || view.reference, its),
        label: [a.reference || view.reference, a.name].filter(Boolean).join(", "),
        file: its,
        page: a.other_page,
      },
    ]);
  };
  return (
    <>
      {files
        .filter((id) => view.same_elsewhere[id])
        .map((id) => (
          <p key={id} className="desk-same">
            {say("The same file stands in")}{" "}
            {view.same_elsewhere[id]?.map((reference) => (
              <Link key={reference} className="mono" to={`/desk/${reference}`}>
                {reference}
              </Link>
            ))}
          </p>
        ))}
      {own.slice(0, MOST).map((a) => (
        <p key={`${a.file} ${a.page} ${a.reference} ${a.sha256}`} className="desk-same">
          {told(a)}{" "}
          {a.reference ? (
            <Link className="mono" to={`/desk/${a.reference}`}>
              {a.reference}
            </Link>
          ) : (
            <b>{a.name}</b>
          )}
          {(a.only_here.length > 0 || a.only_there.length > 0) && (
            <small>
              {say("here: {{here}}; there: {{there}}", {
                here: a.only_here.join(" ") || say("nothing more"),
                there: a.only_there.join(" ") || say("nothing more"),
              })}
            </small>
          )}{" "}
          {a.by !== "bytes" && (
            <button type="button" className="jc-link" onClick={() => compare(a)}>
              {say("compare")}
            </button>
          )}
        </p>
      ))}
      {own.length > MOST && (
        <p className="desk-same">{say("More pages that are alike: {{more}}", { more: own.length - MOST })}</p>
      )}
    </>
  );
}

function told(a: Alike): string {
  if (a.by === "bytes") return say("The same file stands in this filing once more:");
  const page = { page: a.page, other: a.other_page, share: Math.floor(a.share * 100) };
  if (a.by === "look") return say("Sheet {{page}} looks like sheet {{other}} of", page);
  if (a.share === 1) return say("Sheet {{page}} has the words of sheet {{other}} of", page);
  return say("Sheet {{page}} has {{share}} % of the words of sheet {{other}} of", page);
}
