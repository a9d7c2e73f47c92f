// What asks before it is done, or explains: it takes the focus, keeps it, and gives it back.
import { Modal } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import type { ReactNode } from "react";
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
  return (
    <Modal
      opened={opened}
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
