interface Props {
  name: string;
  value: string;
  /** Names alone, or what each is called. */
  options: readonly string[] | readonly { value: string; name: string }[];
  change: (value: string) => void;
}

/** What a list is narrowed to, or all of it. */
export function Choice({ name, value, options, change }: Props) {
  const offered = options.map((one) => (typeof one === "string" ? { value: one, name: one } : one));
  return (
    <label className="flex max-w-full min-w-0 items-baseline gap-2">
      <span className="text-faded">{name}</span>
      <select className="field max-w-full min-w-0" value={value} onChange={(event) => change(event.target.value)}>
        <option value="">all</option>
        {offered.map((one) => (
          <option key={one.value} value={one.value}>
            {one.name}
          </option>
        ))}
      </select>
    </label>
  );
}
