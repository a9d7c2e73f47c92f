// What asks before it is done, or explains: it takes the focus, keeps it, and gives it back.
import { Modal } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { type ReactNode, useEffect, useState } from "react";
import { say } from "./text";
import "./dialog.css";

/** A dialog with a heading. It is closed by its cross, by Escape, or by a click beside it. */
export function Dialog({
  title,
  opened,
  onClose,
  children,
}: {
  title: string;
  opened: boolean;
  onClose: () => void;
  children: ReactNode;
}) {
  // made when it is first asked for, closed, so that it sees itself open and knows where the focus was
  const [made, setMade] = useState(false);
  const [shown, setShown] = useState(false);
  useEffect(() => {
    if (opened) setMade(true);
  }, [opened]);
  useEffect(() => setShown(made), [made]);
  if (!made) return null;
  return (
    <Modal
      opened={opened && shown}
      onClose={onClose}
      title={title}
      centered
      size="auto"
      transitionProps={{ duration: 0 }}
      classNames={{ content: "jc jc-dialog", title: "jc-dialog-title" }}
      closeButtonProps={{ "aria-label": say("Close") }}
    >
      {children}
    </Modal>
  );
}

/** A button that asks once before it does what cannot be undone. */
export function AskFirst({
  question,
  yes,
  onYes,
  className,
  children,
}: {
  question: string;
  yes: string;
  onYes: () => void;
  className: string;
  children: ReactNode;
}) {
  const [open, { open: ask, close }] = useDisclosure(false);
  return (
    <>
      <button type="button" className={className} onClick={ask}>
        {children}
      </button>
      <Dialog title={question} opened={open} onClose={close}>
        <button
          type="button"
          className="jc-button"
          data-autofocus
          onClick={() => {
            close();
            onYes();
          }}
        >
          {yes}
        </button>{" "}
        <button type="button" className="jc-button plain" onClick={close}>
          {say("Cancel")}
        </button>
      </Dialog>
    </>
  );
}
