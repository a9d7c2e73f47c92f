// What comes into a table of repeats from outside: papers dropped, rows of a spreadsheet; what became of them, cell by cell.
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { ChooseFiles } from "../shared/ChooseFiles";
import { ProblemNote } from "../shared/Notes";
import { say, things } from "../shared/text";
import { PILE, usePile } from "./DropAll";
import type { Group, Taken } from "./group";
import type { At } from "./groupRows";
import { OnTheirWay } from "./OnTheirWay";
import { useDrop } from "./useDrop";

const SHEET = /\.(csv|tsv|xlsx)$/i;

export type { Taken } from "./group";

export function GroupIn({
  part,
  group,
  papers,
  onRows,
  taken,
  onCell,
  onShut,
}: {
  part: Schemas["Part"];
  group: Group;
  /** True where each has papers of its own. */
  papers: boolean;
  onRows: (rows: string[][], of: string) => Promise<void>;
  taken: Taken | null;
  onCell: (at: At) => void;
  onShut: () => void;
}) {
  const [trouble, setTrouble] = useState<unknown>(null);
  const waiting = usePile(group.draft).data?.pieces.length ?? 0;
  const read = async (file: File) => {
    try {
      await onRows(await group.read(file), file.name);
      setTrouble(null);
    } catch (error) {
      setTrouble(error);
    }
  };
  const { over, zone } = useDrop((files) => {
    const sheet = [...files].find((file) => SHEET.test(file.name));
    if (sheet && files.length === 1) read(sheet);
    else if (papers) group.papers(files);
  });
  const address = `/api/drafts/${group.draft}/parts/${part.id}/table`;
  return (
    <>
      <div className={`group-in${over ? " over" : ""}`} {...zone}>
        {papers && (
          <p>
            <b>{say("Drop papers here, as many as you have.")}</b>{" "}
            {say("A passport makes a row or goes to the row of its name.")}{" "}
            {waiting > 0 && (
              <Link className="jc-button small" to={`/filing/${group.draft}/pile`}>
                {say("{{papers}} to place: sort them", { papers: things(waiting, "paper") })}
              </Link>
            )}
          </p>
        )}
        <OnTheirWay draft={group.draft} slot={PILE} />
        <p className="second">
          {say("Paste rows from a spreadsheet into the table, or")}{" "}
          <ChooseFiles name={say("A table as CSV or XLSX")} onFiles={(files) => files[0] && read(files[0])}>
            {say("read a CSV or XLSX file")}
          </ChooseFiles>
          . {say("Take the table away")}{" "}
          <a className="jc-link" href={`${address}.xlsx`} download>
            {say("as XLSX")}
          </a>{" "}
          {say("or")}{" "}
          <a className="jc-link" href={`${address}.csv`} download>
            {say("as CSV")}
          </a>
          .
        </p>
      </div>
      <ProblemNote error={trouble ?? taken?.trouble} />
      {taken && !taken.trouble && (
        <div className="group-taken" role="status">
          <p>
            <b>{taken.of}</b>:{" "}
            {say("{{added}} added, {{changed}} changed.", {
              added: things(taken.added, "row"),
              changed: things(taken.changed, "row"),
            })}{" "}
            {taken.complaints.length > 0 && say("To be looked at:")}{" "}
            <button type="button" className="jc-link" onClick={onShut}>
              {say("close")}
            </button>
          </p>
          <ul>
            {taken.complaints.map((c) => {
              const where = c.column
                ? say("Row {{row}}, {{column}}", { row: c.row, column: c.column })
                : say("Row {{row}}", { row: c.row });
              const { item, question } = placeOf(c.place);
              return (
                <li key={`${c.row} ${c.column} ${c.text}`}>
                  {item ? (
                    <button type="button" className="jc-link" onClick={() => onCell({ item: Number(item), question })}>
                      {where}
                    </button>
                  ) : (
                    <b>{where}</b>
                  )}{" "}
                  {c.text}
                </li>
              );
            })}
          </ul>
        </div>
      )}
    </>
  );
}
