// The head of a table whose last column holds what can be done with a row.
import { say } from "./text";

export function TableHead({ columns }: { columns: string[] }) {
  return (
    <thead>
      <tr>
        {columns.map((column) => (
          <th key={column} scope="col">
            {column}
          </th>
        ))}
        <th scope="col">
          <span className="jc-hidden">{say("What can be done")}</span>
        </th>
      </tr>
    </thead>
  );
}
