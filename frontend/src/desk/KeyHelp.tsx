// The keys of the desk, told.
import { Fragment } from "react";
import { Dialog } from "../shared/Dialog";
import { Key } from "../shared/Marks";
import { say } from "../shared/text";
import { HELP } from "./deskKeys";
import "./desk.css";

export function KeyHelp({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Dialog title={say("Keys of the desk")} opened={opened} onClose={onClose}>
      <dl className="desk-help">
        {HELP.map(([keys, says]) => (
          <Fragment key={says}>
            <dt>
              {keys.map((key) => (
                <Key key={key}>{key.toUpperCase()}</Key>
              ))}
            </dt>
            <dd>{says}</dd>
          </Fragment>
        ))}
      </dl>
      <button type="button" className="jc-button small" onClick={onClose}>
        {say("Close")}
      </button>
    </Dialog>
  );
}
