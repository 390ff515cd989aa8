import { Link } from "react-router";

import type { Rulebook } from "../../api/types";
import { useWorkspace } from "../../parts/useWorkspace";

/** The base rules that a version was written on, and whether they are still the newest. */
export function BuildsOn({ layers }: { layers: Rulebook["layers"] }) {
  const { slug } = useWorkspace();
  return (
    <section aria-labelledby="builds-on" className="sheet">
      <h2 id="builds-on" className="mb-2 text-lg font-semibold">
        Builds on
      </h2>
      <ul className="space-y-1">
        {layers.map((layer) => (
          <li key={layer.name}>
            <Link className="link" to={`/${slug}/base-rules/${layer.name}`}>
              {layer.name}
            </Link>
            , version {layer.number}
            {layer.newest > layer.number ? (
              <span className="block text-sm text-ochre">Version {layer.newest} is newer, and not in use here yet.</span>
            ) : null}
          </li>
        ))}
      </ul>
    </section>
  );
}
