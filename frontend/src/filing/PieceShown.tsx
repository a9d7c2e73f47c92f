// A piece of the pile: what it is called, and its sheet as it is looked at.
import type { Schemas } from "../api/client";
import { PdfView } from "../shared/PdfView";
import { say } from "../shared/text";

export type Piece = Schemas["Piece"];

/** What a piece is called: its file, and its sheets if it is a part. */
export function named(p: Piece): string {
  if (!p.first) return p.file.name;
  return p.first === p.last
    ? say("{{name}}, sheet {{first}}", { name: p.file.name, first: p.first })
    : say("{{name}}, sheets {{first}} to {{last}}", { name: p.file.name, first: p.first, last: p.last });
}

/** The sheet of a piece that is looked at. */
export function SheetOf(of: { draft: string; piece: Piece; page: number; onPage: (page: number) => void }) {
  const url = `/api/drafts/${of.draft}/pile/${of.piece.file.id}/content`;
  if (of.piece.type === "pdf") return <PdfView url={url} label={of.piece.file.name} at={of.page} onSeen={of.onPage} />;
  if (["png", "jpeg"].includes(of.piece.type))
    return <img className="pile-picture" src={url} alt={say("The file {{name}}", { name: of.piece.file.name })} />;
  return (
    <p className="second">
      <a href={url} target="_blank" rel="noreferrer">
        {say("Open the file")}
      </a>
    </p>
  );
}
