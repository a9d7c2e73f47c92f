// Cash or a cheque taken at the counter: the case, the amount, the receipt.
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { Dialog } from "../shared/Dialog";
import { ProblemNote } from "../shared/Notes";
import { amount, sign } from "../shared/say";
import { say } from "../shared/text";
import { awaits, type CaseAtTill, FindCase } from "./FindCase";

type Means = Schemas["AtCounter"]["means"];

export function AtCounter(of: { opened: boolean; onClose: () => void; onTaken: () => void; open: boolean }) {
  const [found, setFound] = useState<CaseAtTill | null>(null);
  const [means, setMeans] = useState<Means>("cash");
  const [sum, setSum] = useState("");
  const [mark, setMark] = useState("");
  const [payer, setPayer] = useState("");
  const take = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/till/counter", {
          body: {
            reference: found?.reference ?? "",
            amount: sum.trim(),
            means,
            mark: means === "cash" ? "" : mark,
            payer,
          },
        }),
      ),
    onSuccess: of.onTaken,
  });
  const begin = (told: CaseAtTill | null) => {
    take.reset();
    setFound(told);
    setSum(told && Number(told.awaited) > 0 ? told.awaited : "");
    setMark("");
    setPayer("");
  };
  const close = () => {
    begin(null);
    of.onClose();
  };
  return (
    <Dialog title={say("Cash or cheque")} opened={of.opened} onClose={close}>
      {take.isSuccess && found ? (
        <div className="at-counter" role="status">
          <p>
            {say("{{amount}} taken for {{reference}}. The receipt is {{receipt}}.", {
              amount: `${sign(found.currency)} ${amount(sum)}`,
              reference: found.reference,
              receipt: take.data,
            })}
          </p>
          <p>
            <Link to={`/desk/${found.reference}`} onClick={close}>
              {say("To the case, to print the receipt")}
            </Link>
          </p>
          <button type="button" className="jc-button" data-autofocus onClick={() => begin(null)}>
            {say("Take more")}
          </button>{" "}
          <button type="button" className="jc-button plain" onClick={close}>
            {say("Done")}
          </button>
        </div>
      ) : (
        <form
          className="at-counter"
          onSubmit={(e) => {
            e.preventDefault();
            take.mutate();
          }}
        >
          {!found && (
            <>
              <p className="second">{say("For which case? The slip or the letter names its reference.")}</p>
              <FindCase label={say("Reference, person or place")} onCase={begin} />
            </>
          )}
          {found && (
            <>
              <p>
                <b>
                  <span className="mono">{found.reference}</span> {found.title}
                </b>
                <br />
                <span className="second">
                  {found.applicant} · {found.state} · {awaits(found)}
                </span>{" "}
                <button type="button" className="jc-link" onClick={() => begin(null)}>
                  {say("another one")}
                </button>
              </p>
              <fieldset>
                <legend>{say("How")}</legend>
                {(["cash", "cheque"] as const).map((one) => (
                  <label key={one}>
                    <input type="radio" name="means" checked={means === one} onChange={() => setMeans(one)} />{" "}
                    {one === "cash" ? say("Cash") : say("Cheque")}
                  </label>
                ))}
              </fieldset>
              <label>
                {say("Amount in {{currency}}", { currency: found.currency })}
                <input
                  data-autofocus
                  className="mono"
                  inputMode="decimal"
                  value={sum}
                  onChange={(e) => setSum(e.target.value)}
                />
              </label>
              {means === "cheque" && (
                <label>
                  {say("Number of the cheque")}
                  <input className="mono" value={mark} maxLength={60} onChange={(e) => setMark(e.target.value)} />
                </label>
              )}
              <label>
                {say("Who pays, if it is somebody else")}
                <input value={payer} maxLength={140} onChange={(e) => setPayer(e.target.value)} />
              </label>
              {means === "cash" && !of.open && (
                <p role="status">{say("Open the till first: cash is taken and given at an open till.")}</p>
              )}
              <ProblemNote error={take.error} />
              <button
                type="submit"
                className="jc-button"
                disabled={take.isPending || !sum.trim() || (means === "cash" && !of.open)}
              >
                {say("Take it")}
              </button>
            </>
          )}
        </form>
      )}
    </Dialog>
  );
}
