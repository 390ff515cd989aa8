/** The heads of a table's columns; those ending in ">" stand to the right, as their amounts do. */
export function Heads({ names }: { names: readonly string[] }) {
  return (
    <thead className="border-b border-ink/60">
      <tr className="*:px-3 *:py-2">
        {names.map((name) => (
          <th key={name} scope="col" className={name.endsWith(">") ? "text-right" : ""}>
            {name.replace(">", "")}
          </th>
        ))}
      </tr>
    </thead>
  );
}
