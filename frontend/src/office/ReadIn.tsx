// A case of another office comes as a package: looked into first, then read in whole or not at all.
import { TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { ChooseFiles } from "../shared/ChooseFiles";
import { ProblemNote } from "../shared/Notes";
import { say, things } from "../shared/text";
import { inForm } from "./Registers";

export function ReadIn() {
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [hash, setHash] = useState("");
  const look = useMutation({
    mutationFn: (chosen: File) => {
      setFile(chosen);
      setHash("");
      const body = inForm(chosen);
      return ask(api.POST("/api/packages/look", { body, bodySerializer: () => body }));
    },
  });
  const take = useMutation({
    mutationFn: () => {
      const body = inForm(file as File, { last_hash: hash });
      return ask(api.POST("/api/packages", { body, bodySerializer: () => body }));
    },
    onSuccess: () => {
      look.reset();
      for (const key of ["office", "tray"]) queries.invalidateQueries({ queryKey: [key] });
    },
  });
  const found = look.data;
  return (
    <section aria-label={say("A case of another office")}>
      <h2>{say("A case of another office")}</h2>
      <p className="second">
        {say(
          "It comes as a package, which the other office takes from its desk. Where the same edition of the rules is published here, it goes on here with its whole history; else it is kept as it came.",
        )}
      </p>
      <p>
        <ChooseFiles
          name={say("A package")}
          onFiles={(files) => {
            take.reset();
            if (files[0]) look.mutate(files[0]);
          }}
        >
          {look.isPending ? say("looking into it…") : say("choose a package")}
        </ChooseFiles>
      </p>
      <ProblemNote error={look.error ?? take.error} />
      {take.data && (
        <p className="moss" role="status">
          {take.data.goes_on ? say("It goes on here as") : say("It is kept as it came, as")}{" "}
          <Link className="mono" to={`/${take.data.goes_on ? "desk" : "kept"}/${take.data.reference}`}>
            {take.data.reference}
          </Link>
        </p>
      )}
      {found && (
        <form
          className="office-change"
          onSubmit={(e) => {
            e.preventDefault();
            take.mutate();
          }}
        >
          <Told found={found} />
          <TextInput
            label={say("How does the hash of the last entry begin, as the other office says?")}
            description={say(
              "Ask by telephone: whoever changed the package on the way cannot keep it. You may leave it empty.",
            )}
            value={hash}
            maxLength={80}
            onChange={(e) => setHash(e.target.value)}
            w={520}
          />
          <p>
            <button type="submit" className="jc-button" disabled={take.isPending}>
              {found.goes_on ? say("Read it in") : say("Keep it as it came")}
            </button>{" "}
            <button type="button" className="jc-link" onClick={() => look.reset()}>
              {say("leave it")}
            </button>
          </p>
        </form>
      )}
    </section>
  );
}

function Told({ found }: { found: Schemas["PackageFound"] }) {
  return (
    <>
      <h3>
        <span className="mono">{found.reference}</span> {found.title}
      </h3>
      <p>
        {say("{{state}} at {{office}}, for {{applicant}}. {{entries}} of history, {{files}}. The package is whole.", {
          state: found.state,
          office: found.office,
          applicant: found.applicant,
          entries: things(found.entries, "entry"),
          files: things(found.files, "file"),
        })}
      </p>
      {found.why_kept ? (
        <p className="ochre">
          {say("{{why}} It is kept as it came: shown, found, and not judged.", { why: found.why_kept })}
        </p>
      ) : (
        <p>{say("The same edition of the rules is published here: the case goes on here.")}</p>
      )}
    </>
  );
}
