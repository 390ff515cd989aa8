import { queryOptions } from "@tanstack/react-query";

import { http } from "./http";
import type { BrowserSession, OfferedSecret, Page, SecondFactor } from "./types";

/** What a person gives to show once more who they are. */
export interface Proof {
  password: string;
  code: string;
}

export const browsersQuery = queryOptions({
  queryKey: ["account", "browsers"],
  queryFn: () => http.get<Page<BrowserSession>>("/sessions?limit=200"),
});

export const endBrowser = (number: number) => http.delete(`/sessions/${number}`);

export const endOtherBrowsers = () => http.delete("/sessions");

export const changePassword = (given: Proof & { new_password: string; withdraw_tokens: boolean }) =>
  http.post<undefined>("/password", given);

export const askForReset = (email: string) => http.post<undefined>("/password/reset", { email });

export const choosePassword = (secret: string, new_password: string) =>
  http.post<undefined>("/password/choose", { secret, new_password });

export const secondFactorQuery = queryOptions({
  queryKey: ["account", "second-factor"],
  queryFn: () => http.get<SecondFactor>("/second-factor"),
});

export const beginSecondFactor = (proof: Proof) => http.post<OfferedSecret>("/second-factor", proof);

export const confirmSecondFactor = (code: string) =>
  http.post<{ recovery_codes: string[] }>("/second-factor/confirm", { code });

export const turnOffSecondFactor = (proof: Proof) => http.post<undefined>("/second-factor/turn-off", proof);

export const renewRecoveryCodes = (proof: Proof) =>
  http.post<{ recovery_codes: string[] }>("/second-factor/recovery-codes", proof);

/** The page of the provider of identities; `invitation` is what one is taken up with. */
export const providersPage = (invitation = "") => http.post<{ page: string }>("/session/openid", { invitation });
