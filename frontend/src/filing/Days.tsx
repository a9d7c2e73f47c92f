// One month of days to choose from.
import { DatePicker } from "@mantine/dates";
import "@mantine/dates/styles.css";
import { useQuery } from "@tanstack/react-query";
import dayjs from "dayjs";
import { useState } from "react";
import { api, ask } from "../api/client";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import "./days.css";

export function Days({
  until,
  iso,
  onChoose,
}: {
  until: boolean;
  iso: string | null;
  onChoose: (answer: string) => void;
}) {
  const today = useSession().data?.today ?? "";
  const [shown, setShown] = useState(iso ?? today);
  const year = Number(shown.slice(0, 4));
  const closed = useQuery({
    queryKey: ["closed days", year],
    queryFn: () => ask(api.GET("/api/closed-days/{year}", { params: { path: { year } } })),
    staleTime: 60_000, // a lead may declare another
  });
  const why = new Map(closed.data?.map((d) => [d.day, d.why]) ?? []);
  return (
    <>
      <DatePicker
        value={iso}
        defaultDate={iso ?? today}
        onDateChange={(day) => setShown(String(day))}
        maxDate={until ? today : undefined}
        minDate="1900-01-01"
        firstDayOfWeek={1}
        weekendDays={[]}
        hideOutsideDates
        ariaLabels={{
          previousMonth: say("The month before"),
          nextMonth: say("The next month"),
          previousYear: say("The year before"),
          nextYear: say("The next year"),
          previousDecade: say("The decade before"),
          nextDecade: say("The next decade"),
          monthLevelControl: say("Choose a month"),
          yearLevelControl: say("Choose a year"),
        }}
        getDayProps={(day) => {
          const closedBy = why.get(String(day));
          return {
            className: closedBy ? "days-closed" : undefined,
            title: closedBy ? say("The office is closed: {{why}}", { why: closedBy }) : undefined,
          };
        }}
        onChange={(day) => {
          // in English, as answers are read whatever the language of the screen
          if (day) onChoose(dayjs(day).format("D MMM YYYY"));
        }}
      />
      <p className="second days-legend">{say("Struck through: the office is closed.")}</p>
    </>
  );
}
