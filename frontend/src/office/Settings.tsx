// The settings that are safe to change here, one line each; what the server's environment says can only be read.
import { Select, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { LANGUAGES, say } from "../shared/text";

export function Settings({ settings }: { settings: Schemas["SettingTold"][] }) {
  return (
    <section aria-label={say("Letterhead, bank and settings")}>
      <h2>{say("Letterhead, bank and settings")}</h2>
      {settings.map((one) => (
        <Setting key={one.name + one.value} setting={one} />
      ))}
    </section>
  );
}

function Setting({ setting }: { setting: Schemas["SettingTold"] }) {
  const queries = useQueryClient();
  const [value, setValue] = useState(setting.value);
  const change = useMutation({
    mutationFn: () =>
      ask(api.PUT("/api/office/settings/{name}", { params: { path: { name: setting.name } }, body: { value } })),
    onSuccess: () => {
      for (const key of ["office", "session"]) queries.invalidateQueries({ queryKey: [key] });
    },
  });
  const about = setting.fixed ? say("The environment of the server says it; it is changed there.") : setting.about;
  const choices = setting.choices.map((code) => ({
    value: code,
    label: LANGUAGES[code as keyof typeof LANGUAGES] ?? code,
  }));
  return (
    <form
      className="office-setting"
      onSubmit={(e) => {
        e.preventDefault();
        change.mutate();
      }}
    >
      {choices.length > 0 ? (
        <Select
          label={setting.title}
          description={about}
          data={choices}
          value={value}
          allowDeselect={false}
          disabled={setting.fixed}
          onChange={(chosen) => setValue(chosen ?? "")}
        />
      ) : (
        <TextInput
          label={setting.title}
          description={about}
          value={value}
          maxLength={200}
          disabled={setting.fixed}
          onChange={(e) => setValue(e.target.value)}
        />
      )}
      <button type="submit" className="jc-button plain" disabled={value === setting.value || change.isPending}>
        {say("Change it")}
        <span className="jc-hidden">: {setting.title}</span>
      </button>
      <ProblemNote error={change.error} />
    </form>
  );
}
