/** The heads of a table's columns; those ending in ">" stand to the right, as their amounts do. On the pages of a spread they stand closer. */
export function Heads({ names, close = false }: { names: readonly string[]; close?: boolean }) {
  return (
    <thead className="border-b border-ink/60">
      <tr className={close ? "*:py-1" : "*:px-3 *:py-2"}>
        {names.map((name) => (
          <th key={name} scope="col" className={name.endsWith(">") ? "text-right" : ""}>
            {name.replace(">", "")}
          </th>
        ))}
      </tr>
    </thead>
  );
}
