// A calendar beside a field for a day: what is chosen is written as the house writes it; days on which the office is closed are marked.
import { ActionIcon, Popover } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { lazy, Suspense } from "react";

// fetched with the first calendar that is opened
const Days = lazy(() => import("./Days").then((m) => ({ default: m.Days })));

export function ChooseDay({
  label,
  of,
  until,
  iso,
  onChoose,
}: {
  label: string;
  /** The id of the words that tell which day it is. */
  of?: string;
  /** True for a day that may not lie after today. */
  until: boolean;
  /** The day that stands in the field, if it is one. */
  iso?: string | null;
  onChoose: (answer: string) => void;
}) {
  const [open, { toggle, close }] = useDisclosure(false);
  return (
    <Popover opened={open} onDismiss={close} trapFocus returnFocus withinPortal transitionProps={{ duration: 0 }}>
      <Popover.Target>
        <ActionIcon
          variant="transparent"
          color="var(--ink-2)"
          aria-label={label}
          aria-describedby={of}
          aria-expanded={open}
          onClick={toggle}
        >
          <svg viewBox="0 0 16 16" width="16" height="16" aria-hidden="true" fill="none" stroke="currentColor">
            <path d="M2.500 4.500v9h11v-9zM2.500 7.500h11M5.500 2v3M10.500 2v3" />
          </svg>
        </ActionIcon>
      </Popover.Target>
      <Popover.Dropdown className="jc">
        <Suspense fallback={null}>
          {open && (
            <Days
              until={until}
              iso={iso ?? null}
              onChoose={(answer) => {
                onChoose(answer);
                close();
              }}
            />
          )}
        </Suspense>
      </Popover.Dropdown>
    </Popover>
  );
}
