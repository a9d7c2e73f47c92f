// Things that come by post: the code of the docket is scanned (a scanner types it) or typed; where it lies is noted.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { ChooseFiles } from "../shared/ChooseFiles";
import { ProblemNote } from "../shared/Notes";
import { exactly } from "../shared/say";
import { say } from "../shared/text";

function inForm(photograph: File): FormData {
  const form = new FormData();
  form.append("file", photograph);
  return form;
}

export function Things() {
  const queries = useQueryClient();
  const [docket, setDocket] = useState("");
  const [place, setPlace] = useState("");
  const [condition, setCondition] = useState("");
  const where = useRef<HTMLInputElement>(null);
  const look = useMutation({
    /** By its number, or by a photograph of its code. */
    mutationFn: (photograph?: File) =>
      photograph
        ? ask(
            api.POST("/api/counter/photographs", {
              body: {} as never,
              bodySerializer: () => inForm(photograph) as never,
            }),
          )
        : ask(api.GET("/api/counter/things/{docket}", { params: { path: { docket: docket.trim() } } })),
    onSuccess: (found) => {
      setDocket(found.docket);
      setPlace(found.place);
      setCondition(found.condition);
      window.setTimeout(() => where.current?.focus());
    },
  });
  const take = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/counter/things/{docket}", {
          params: { path: { docket: look.data?.docket ?? "" } },
          body: { place, condition },
        }),
      ),
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: ["case"] });
      setDocket("");
      look.reset();
    },
  });
  const found = look.data;
  return (
    <section className="counter-things" aria-labelledby="counter-things">
      <h2 id="counter-things">{say("Something came by post")}</h2>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          take.reset();
          look.mutate(undefined);
        }}
      >
        <label>
          {say("Scan or type the number of its docket")}
          <input
            className="jc-field mono"
            value={docket}
            maxLength={40}
            placeholder="D-26-00017-K"
            onChange={(e) => setDocket(e.target.value)}
          />
        </label>{" "}
        <div className="counter-look">
          <button type="submit" className="jc-button plain" disabled={docket.trim().length < 4 || look.isPending}>
            {say("Look")}
          </button>{" "}
          <ChooseFiles
            camera
            name={say("A photograph of the code")}
            onFiles={([photograph]) => {
              take.reset();
              look.mutate(photograph);
            }}
          >
            {look.isPending && look.variables ? say("Reading its code…") : say("Photograph its code")}
          </ChooseFiles>
        </div>
      </form>
      <ProblemNote error={look.error} />
      {found && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            take.mutate();
          }}
        >
          <p>
            <b>{found.what}</b>, {found.slot}
            <br />
            <Link to={`/desk/${found.reference}`}>
              <span className="mono">{found.reference}</span> {found.title}
            </Link>
            {found.came_at && (
              <>
                <br />
                <span className="second">
                  {say("It came {{at}} and lies at {{place}}.", { at: exactly(found.came_at), place: found.place })}
                </span>
              </>
            )}
          </p>
          <label>
            {say("Where does it lie?")}
            <input
              className="jc-field"
              ref={where}
              value={place}
              maxLength={80}
              onChange={(e) => setPlace(e.target.value)}
            />
          </label>
          <label>
            {say("In which condition, if there is something to say")}
            <input
              className="jc-field"
              value={condition}
              maxLength={200}
              onChange={(e) => setCondition(e.target.value)}
            />
          </label>
          <ProblemNote error={take.error} />
          <button type="submit" className="jc-button" disabled={place.trim().length < 2 || take.isPending}>
            {found.came_at ? say("It lies there now") : say("It came")}
          </button>
        </form>
      )}
      {take.data && (
        <p role="status">
          {say("{{docket}} lies at {{place}}.", { docket: take.data.docket, place: take.data.place })}
        </p>
      )}
    </section>
  );
}
