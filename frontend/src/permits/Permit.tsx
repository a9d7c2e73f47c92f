// What was granted, on a page of its own: how it stands, what it says, what can be done with it, its inspections and its history.
import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, insteadOf } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { capital, day, exactly, shortDay } from "../shared/say";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import type { Page } from "./page";
import { Visits } from "./Visits";
import "./permit.css";

export function Permit() {
  const { reference = "" } = useParams();
  const office = useSession().data?.may?.pages.includes("in-tray");
  const looked = useQuery({
    queryKey: ["case", reference, "permit"],
    queryFn: () => ask(api.GET("/api/cases/{reference}/permit", { params: { path: { reference } } })),
  });
  const instead = insteadOf(looked);
  if (instead)
    return (
      <main className="jc-page">
        <ProblemNote error={instead} />
      </main>
    );
  const page = looked.data;
  if (!page) return <Skeleton lines={9} />;
  const url = `/api/cases/${reference}`;
  return (
    <main className="jc-page permit">
      <p className="second">
        {page.sees_case ? (
          <Link to={office ? `/desk/${reference}` : `/cases/${reference}`}>
            {say("The application {{reference}}", { reference })}
          </Link>
        ) : (
          say("{{reference}}, which was transferred to you", { reference })
        )}
      </p>
      <div className="permit-columns">
        <div>
          <section className="permit-sheet" aria-labelledby="permit-title">
            <p className={`permit-stands ${page.tone}`}>{capital(page.stands)}</p>
            <h1 id="permit-title">{page.title}</h1>
            <p className="permit-called">{page.called}</p>
            <dl className="permit-days">
              <div>
                <dt>{say("Issued")}</dt>
                <dd>{day(page.issued)}</dd>
              </div>
              {page.days.map((d) => (
                <div key={d.what}>
                  <dt>{d.title}</dt>
                  <dd>
                    {day(d.day)} <small>{say("art. {{article}}", { article: d.article })}</small>
                  </dd>
                </div>
              ))}
            </dl>
            <dl className="permit-says">
              {page.says.map((told) => (
                <div key={told.label}>
                  <dt>{told.label}</dt>
                  <dd>{told.value}</dd>
                </div>
              ))}
            </dl>
            {page.conditions && (
              <p className="permit-conditions">
                <b>{say("Conditions")}</b> {page.conditions}
              </p>
            )}
            <p className="permit-foot">
              <a href={`${url}/permit/document`} target="_blank" rel="noreferrer" className="jc-button">
                {say("The {{grants}} (PDF)", { grants: page.grants })}
              </a>
              <span>
                {say("Anyone can check it by its code:")} <b className="mono">{page.code}</b>{" "}
                <Link to={`/check/${page.code}`}>{say("see what they see")}</Link>
              </span>
            </p>
          </section>
          {page.visits.length > 0 && <Visits page={page} />}
          <section aria-labelledby="permit-history">
            <h2 id="permit-history">{say("What happened to it")}</h2>
            <ol className="permit-history">
              {page.history.map((line) => (
                <li key={`${line.at}${line.text}`}>
                  <time dateTime={line.at} title={exactly(line.at)}>
                    {shortDay(line.at)}
                  </time>
                  <span>
                    {line.text}{" "}
                    {line.paper > 0 && (
                      <a href={`${url}/papers/${line.paper}`} target="_blank" rel="noreferrer">
                        {say("paper")}
                      </a>
                    )}
                  </span>
                </li>
              ))}
            </ol>
          </section>
        </div>
        <aside>
          {page.filed.length > 0 && <Filed page={page} office={!!office} />}
          {page.offers.length > 0 && <Offers page={page} />}
        </aside>
      </div>
    </main>
  );
}

/** The short filings on it. */
function Filed({ page, office }: { page: Page; office: boolean }) {
  return (
    <section aria-labelledby="permit-filed">
      <h2 id="permit-filed">{say("Filed on it")}</h2>
      <ul className="permit-filed">
        {page.filed.map((f) => (
          <li key={f.reference}>
            {f.opens ? (
              <Link to={office ? `/desk/${f.reference}` : `/cases/${f.reference}`} className="mono">
                {f.reference}
              </Link>
            ) : (
              <span className="mono">{f.reference}</span>
            )}{" "}
            <span>{f.title}</span>
            <small>
              {f.said}, {shortDay(f.filed_at)}
            </small>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What the holder can file on it, with what it costs; what cannot be filed now says why. */
function Offers({ page }: { page: Page }) {
  const go = useNavigate();
  const begin = useMutation({
    mutationFn: (kind: string) =>
      ask(
        api.POST("/api/cases/{reference}/permit/steps/{step}", {
          params: { path: { reference: page.reference, step: kind } },
        }),
      ),
    onSuccess: ({ id }) => go(`/filing/${id}`),
  });
  return (
    <section aria-labelledby="permit-offers">
      <h2 id="permit-offers">{page.own ? say("What you can do with it") : say("What the holder can do with it")}</h2>
      <ProblemNote error={begin.error} />
      <ul className="permit-offers">
        {page.offers.map((offer) => (
          <li key={offer.kind} className={offer.why_not.length > 0 ? "not-now" : undefined}>
            <h3>{offer.title}</h3>
            <p>{offer.about}</p>
            {offer.why_not.map((why) => (
              <p key={why} className="permit-why">
                {say("Not now:")} {why}
              </p>
            ))}
            {offer.why_not.length === 0 && (
              <p className="permit-offer-foot">
                {page.own && (
                  <button
                    type="button"
                    className="jc-button small"
                    disabled={begin.isPending}
                    onClick={() => begin.mutate(offer.kind)}
                  >
                    {offer.draft ? say("Go on") : say("Begin")}
                  </button>
                )}
                <span className="second">{offer.cost || say("The price depends on your answers")}</span>
              </p>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
