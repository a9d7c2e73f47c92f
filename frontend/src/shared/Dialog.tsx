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

/** The button that says yes in a dialog: it has the focus unless that is `elsewhere`, closes the dialog, and does it. */
export function Yes({
  onYes,
  onClose,
  disabled,
  elsewhere,
  children,
}: {
  onYes: () => void;
  onClose: () => void;
  disabled?: boolean;
  elsewhere?: boolean;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      className="jc-button"
      data-autofocus={!elsewhere || undefined}
      disabled={disabled}
      onClick={() => {
        onClose();
        onYes();
      }}
    >
      {children}
    </button>
  );
}

/** A dialog that is answered with yes or no; what is to be known first stands in it. */
export function Question({
  title,
  yes,
  no,
  opened,
  onYes,
  onClose,
  children,
}: {
  title: string;
  yes: string;
  no: string;
  opened: boolean;
  onYes: () => void;
  onClose: () => void;
  children?: ReactNode;
}) {
  return (
    <Dialog title={title} opened={opened} onClose={onClose}>
      {children}
      <Yes onYes={onYes} onClose={onClose}>
        {yes}
      </Yes>{" "}
      <button type="button" className="jc-button plain" onClick={onClose}>
        {no}
      </button>
    </Dialog>
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
      <Question title={question} yes={yes} no={say("Cancel")} opened={open} onYes={onYes} onClose={close} />
    </>
  );
}
