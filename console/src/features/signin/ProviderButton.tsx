import { useMutation } from "@tanstack/react-query";

import { providersPage } from "../../api/account";
import { ProblemNote } from "../../parts/Problem";

/** Going on to the provider of identities that the service trusts. */
export function ProviderButton({ name, invitation = "" }: { name: string; invitation?: string }) {
  const going = useMutation({
    mutationFn: () => providersPage(invitation),
    onSuccess: ({ page }) => window.location.assign(page),
  });
  return (
    <div className="mt-4 space-y-3">
      {going.isError ? <ProblemNote error={going.error} /> : null}
      <button type="button" className="button-quiet w-full justify-center text-center" disabled={going.isPending} onClick={() => going.mutate()}>
        {invitation ? "Join" : "Sign in"} with {name}
      </button>
    </div>
  );
}
