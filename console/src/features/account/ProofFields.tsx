import { useQuery } from "@tanstack/react-query";

import { type Proof, secondFactorQuery } from "../../api/account";
import { CodeField } from "../../parts/CodeField";
import { Labelled } from "../../parts/Labelled";

/** The password once more, and the code of the app where the second factor is on. */
export function ProofFields({ proof, set }: { proof: Proof; set: (proof: Proof) => void }) {
  const secondFactor = useQuery(secondFactorQuery);
  const { password, code } = proof;
  return (
    <>
      <Labelled
        label="Your password"
        type="password"
        autoComplete="current-password"
        value={password}
        required
        onChange={(value) => set({ password: value, code })}
      />
      {secondFactor.data?.on ? (
        <CodeField value={code} onChange={(value) => set({ password, code: value })} />
      ) : null}
    </>
  );
}
