import { useRouteError } from "react-router";

import { ProblemNote } from "./Problem";

/** A page that failed while it was drawn; the rest of the console stays. */
export function Failed() {
  const error = useRouteError();
  return (
    <div className="p-8">
      <ProblemNote error={error} again={() => window.location.reload()} />
    </div>
  );
}
