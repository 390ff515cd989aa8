import type { ReactNode } from "react";
import { Link } from "react-router";

import { PageHead } from "./Labelled";
import { useWorkspace } from "./useWorkspace";

interface Props {
  title: string;
  bridge: string;
  /** What stands at the side: asking for it, and what was asked for before. */
  side: ReactNode;
  children: ReactNode;
}

/** A page of work that is asked for about the rules of a bridge, and looked at once it has ended. */
export function AskedWorkPage({ title, bridge, side, children }: Props) {
  const { slug } = useWorkspace();
  return (
    <>
      <PageHead title={title}>
        <Link className="link" to={`/${slug}/bridges/${bridge}/rules`}>
          To the rules
        </Link>
        <Link className="link" to={`/${slug}/bridges/${bridge}`}>
          Back to the bridge
        </Link>
      </PageHead>
      <div className="grid items-start gap-5 lg:grid-cols-[18rem_1fr]">
        <div className="space-y-5">{side}</div>
        {children}
      </div>
    </>
  );
}
