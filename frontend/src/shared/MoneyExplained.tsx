// What has become of money that is not plainly paid: in part, too much, too late, charged back.
import "./slip.css";

export function MoneyExplained({ said }: { said: readonly string[] }) {
  if (said.length === 0) return null;
  return (
    <ul className="jc-money-explained">
      {said.map((sentence) => (
        <li key={sentence}>{sentence}</li>
      ))}
    </ul>
  );
}
