import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { Ending } from "./Ending";
import { useWorkspace } from "./useWorkspace";

/** Removing the thing that a page is about; it leads back to the list of such things. */
export function Removal(thing: { what: string; name: string; list: string; act: (confirm: boolean) => Promise<unknown> }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const go = useNavigate();
  return (
    <section aria-labelledby="remove" className="mt-6">
      <h2 id="remove" className="mb-2 text-lg font-semibold">
        Remove
      </h2>
      <Ending
        label={`Remove this ${thing.what}`}
        meant={`Remove ${thing.name}`}
        act={thing.act}
        done={() => {
          void queries.invalidateQueries({ queryKey: [slug] });
          void go(`/${slug}/${thing.list}`);
        }}
      />
    </section>
  );
}
