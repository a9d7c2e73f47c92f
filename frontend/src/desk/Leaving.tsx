// What is ready and leaves soon: it can be taken back, or sent at once; and the question before it would fall.
import { Dialog } from "../shared/Dialog";
import { useHotkey } from "../shared/keys";
import { Key } from "../shared/Marks";
import { say } from "../shared/text";
import { KEY } from "./deskKeys";
import type { OnDesk } from "./useCase";
import "./desk.css";

export function Leaving({ desk, may }: { desk: OnDesk; may: boolean }) {
  const { leaving, meets } = desk;
  useHotkey(KEY.undo, desk.takeBack, may && !!leaving);
  return (
    <>
      {leaving && (
        <p className="desk-leaving" role="status">
          <b>{leaving.says}</b>{" "}
          {may && (
            <>
              <button type="button" className="jc-button small" disabled={desk.busy} onClick={desk.takeBack}>
                {say("Take it back")} <Key>{KEY.undo.toUpperCase()}</Key>
              </button>{" "}
              <button type="button" className="jc-link" disabled={desk.busy} onClick={desk.sendNow}>
                {say("send it now")}
              </button>
            </>
          )}
        </p>
      )}
      <Dialog title={say("Take it back first?")} opened={!!meets} onClose={() => meets?.answer(false)}>
        <p>{meets?.says}</p>
        <button type="button" className="jc-button" data-autofocus onClick={() => meets?.answer(true)}>
          {say("Take it back and go on")}
        </button>{" "}
        <button type="button" className="jc-button plain" onClick={() => meets?.answer(false)}>
          {say("Leave it as it is")}
        </button>
      </Dialog>
    </>
  );
}
