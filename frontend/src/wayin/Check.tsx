// Is this permit real? Anyone may look, by its code.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask } from "../api/client";
import { Stamp } from "../shared/Marks";
import { ProblemNote } from "../shared/Notes";
import { capital } from "../shared/say";
import { say } from "../shared/text";
import "./wayin.css";

export function Check() {
  const { code = "" } = useParams();
  const [typed, setTyped] = useState(code);
  const navigate = useNavigate();
  const found = useQuery({
    queryKey: ["permit", code],
    queryFn: () => ask(api.GET("/api/permits/{code}", { params: { path: { code } } })),
    enabled: code !== "",
    retry: false,
  });
  return (
    <main className="jc-page check">
      <p>
        <Link to="/">{say("Back to the start")}</Link>
      </p>
      <h1>{say("Is this document real?")}</h1>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          navigate(`/check/${typed.trim().toUpperCase()}`);
        }}
      >
        <label htmlFor="code">{say("The code on it")}</label>
        <input id="code" className="mono" value={typed} onChange={(e) => setTyped(e.target.value)} autoComplete="off" />
        <button type="submit" className="jc-button" disabled={typed.trim().length < 4}>
          {say("Check it")}
        </button>
      </form>
      <ProblemNote error={code ? found.error : null} />
      {found.data && (
        <section className="check-found" role="status">
          {found.data.counts && <Stamp state={found.data.state} />}
          <h2>{found.data.kind}</h2>
          {found.data.stands && (
            <p className={found.data.counts ? "check-stands" : "check-stands madder"}>{capital(found.data.stands)}</p>
          )}
          <p>
            <span className="mono">{found.data.reference}</span>
            {say(", granted on {{granted}}.", { granted: found.data.granted })}
          </p>
          <dl>
            {found.data.says.map((s) => (
              <div key={s.label}>
                <dt>{s.label}</dt>
                <dd>{s.value}</dd>
              </div>
            ))}
          </dl>
          <p className="second">{say("This is all that is open to the public.")}</p>
        </section>
      )}
    </main>
  );
}
