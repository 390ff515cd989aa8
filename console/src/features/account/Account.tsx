import { PageHead } from "../../parts/Labelled";
import { useTitle } from "../../parts/useTitle";
import { Browsers } from "./Browsers";
import { Password } from "./Password";
import { SecondFactor } from "./SecondFactor";
import { Tokens } from "./Tokens";

/** One's own account: how one signs in, with which browsers one is, and keys for programs. */
export function Account() {
  useTitle("Your account");
  return (
    <>
      <PageHead title="Your account" />
      <div className="grid items-start gap-5 lg:grid-cols-2">
        <div className="space-y-5">
          <Password />
          <SecondFactor />
        </div>
        <div className="space-y-5">
          <Browsers />
          <Tokens />
        </div>
      </div>
    </>
  );
}
