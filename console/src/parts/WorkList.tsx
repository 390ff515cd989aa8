interface Work {
  id: number;
  /** What it is called, such as its period. */
  name: string;
  /** What it came to, or how far it is. */
  said: string;
}

interface Props {
  title: string;
  works: Work[];
  shown: number | null;
  show: (id: number) => void;
}

/** Work that was asked for before, newest first, to be opened again. */
export function WorkList({ title, works, shown, show }: Props) {
  if (!works.length) return null;
  return (
    <section aria-labelledby="earlier" className="sheet">
      <h2 id="earlier" className="mb-2 text-lg font-semibold">
        {title}
      </h2>
      <ul className="space-y-2">
        {works.map((one) => (
          <li key={one.id}>
            <button type="button" className="link text-left" aria-current={one.id === shown} onClick={() => show(one.id)}>
              {one.name}
            </button>
            <span className="block text-sm text-faded">{one.said}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
