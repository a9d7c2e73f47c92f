// The page of an issuer: what is wanted, by whom, and one file or a statement sent straight to the office.
import { Checkbox, Textarea, TextInput } from "@mantine/core";
import { useDocumentTitle } from "@mantine/hooks";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { api, ask, ProblemError, type Schemas } from "../api/client";
import { useDrop } from "../filing/useDrop";
import { ChooseFiles } from "../shared/ChooseFiles";
import { useHeading } from "../shared/heading";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day, exactly, size } from "../shared/say";
import { say } from "../shared/text";
import "./deliver.css";

type Wanted = Schemas["Wanted"];

export function Deliver() {
  const { secret = "" } = useParams();
  const params = { path: { secret } };
  const wanted = useQuery({
    queryKey: ["deliver", secret],
    queryFn: () => ask(api.GET("/api/deliver/{secret}", { params })),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY, // once it was used there is nothing behind the link
  });
  useHeading(true);
  useDocumentTitle(say("Send a document to the office"));
  const here = wanted.isSuccess;
  useEffect(() => {
    const path = { path: { secret } };
    if (here) ask(api.POST("/api/deliver/{secret}/opened", { params: path })).catch(() => undefined);
  }, [here, secret]);
  if (wanted.isPending) return <Skeleton lines={5} />;
  return (
    <main className="jc-page deliver">
      {wanted.data ? (
        <Send secret={secret} wanted={wanted.data} />
      ) : (
        <>
          <h1 tabIndex={-1}>{say("Send a document to the office")}</h1>
          <ProblemNote error={wanted.error} />
        </>
      )}
    </main>
  );
}

function Send({ secret, wanted }: { secret: string; wanted: Wanted }) {
  const [name, setName] = useState(wanted.name);
  const [firm, setFirm] = useState("");
  const [file, setFile] = useState<File | null>(null);
  const [statement, setStatement] = useState("");
  const [shown, setShown] = useState(false);
  const choose = (list: File[]) => {
    send.reset();
    setFile(list[0] ?? null);
  };
  const { over, zone } = useDrop(choose);
  const send = useMutation({
    mutationFn: (anyway: boolean) => {
      const body = new FormData();
      for (const [key, value] of Object.entries({ name, firm, shown, anyway })) body.append(key, String(value));
      if (file) body.append("file", file);
      else body.append("statement", statement);
      return ask(
        api.POST("/api/deliver/{secret}", {
          params: { path: { secret } },
          body: body as unknown as { name: string; firm: string; shown: boolean; statement: string; anyway: boolean },
          bodySerializer: () => body,
        }),
      );
    },
  });
  if (send.data) return <Receipt done={send.data} office={wanted.office} />;
  const doubt = send.error instanceof ProblemError && send.error.problem.place === "anyway";
  return (
    <>
      <h1 tabIndex={-1}>{wanted.document}</h1>
      <p>
        {say("{{owner}} asks you to send this straight to {{office}}, by {{by}}, for: {{kind}}.", {
          owner: wanted.owner,
          office: wanted.office,
          by: day(wanted.wanted_by),
          kind: wanted.kind,
        })}
      </p>
      {wanted.title && <p className="deliver-title">{wanted.title}</p>}
      <p>{wanted.says}</p>
      {wanted.words && (
        <p>
          {wanted.owner}: <q>{wanted.words}</q>
        </p>
      )}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate(false);
        }}
      >
        <div className="deliver-who">
          <TextInput
            label={say("Your name")}
            required
            value={name}
            maxLength={120}
            onChange={(e) => setName(e.target.value)}
          />
          <TextInput
            label={say("Your office or firm")}
            required
            value={firm}
            maxLength={120}
            onChange={(e) => setFirm(e.target.value)}
          />
        </div>
        <div className={`deliver-file${over ? " over" : ""}`} {...zone}>
          {file ? (
            <p>
              <b>{file.name}</b> <span className="second">{size(file.size)}</span>{" "}
              <button type="button" className="jc-link" onClick={() => setFile(null)}>
                {say("remove")}
              </button>
            </p>
          ) : (
            <p>
              {say("Drop the document here, or")}{" "}
              <ChooseFiles name={say("The document")} onFiles={choose}>
                {say("choose a file")}
              </ChooseFiles>
            </p>
          )}
          <p className="second">{wanted.accepts}</p>
        </div>
        {!file && (
          <Textarea
            label={say("Or write what you state; it becomes a document")}
            autosize
            minRows={4}
            maxLength={8000}
            value={statement}
            onChange={(e) => setStatement(e.target.value)}
          />
        )}
        <Checkbox
          label={say("{{owner}} may see it as well", { owner: wanted.owner })}
          description={say("Otherwise only the office looks into it; {{owner}} is told that it has come.", {
            owner: wanted.owner,
          })}
          checked={shown}
          onChange={(e) => setShown(e.target.checked)}
        />
        <ProblemNote error={send.error} />
        <p>
          <button
            type="submit"
            className="jc-button"
            disabled={send.isPending || !name.trim() || !firm.trim() || !(file || statement.trim())}
          >
            {send.isPending ? say("It is being sent and read…") : say("Send it to the office")}
          </button>{" "}
          {doubt && (
            <button type="button" className="jc-button second" onClick={() => send.mutate(true)}>
              {say("Send it all the same")}
            </button>
          )}
        </p>
        <p className="second">{say("The link works once. What was sent cannot be taken back here.")}</p>
      </form>
    </>
  );
}

function Receipt({ done, office }: { done: Schemas["Delivered"]; office: string }) {
  return (
    <>
      <h1 tabIndex={-1}>{say("It has arrived")}</h1>
      <p role="status">
        {say("{{office}} has it since {{at}}. {{owner}} is told that it came. You need not do anything more.", {
          office,
          at: exactly(done.at),
          owner: done.owner,
        })}
      </p>
      <dl className="deliver-receipt">
        <dt>{say("For")}</dt>
        <dd>
          {done.document}
          {done.reference && <span className="mono"> {done.reference}</span>}
        </dd>
        <dt>{say("File")}</dt>
        <dd>
          {done.name}, {size(done.size)}
        </dd>
        <dt>{say("Checksum (SHA-256)")}</dt>
        <dd className="mono">{done.sha256}</dd>
      </dl>
      <p>
        <button type="button" className="jc-button" onClick={() => window.print()}>
          {say("Print this receipt")}
        </button>
      </p>
    </>
  );
}
