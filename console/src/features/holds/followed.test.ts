import { expect, it } from "vitest";

import { inWords } from "./Followed";

it.each([
  [{ carried: 7, held: 1 }, "8 tried: 7 carried, 1 held"],
  [{ held: 1, waiting: 3 }, "4 tried: 3 waiting, 1 held"],
  [{ carried: 2 }, "2 tried: 2 carried"],
])("%j is %s", (states, words) => expect(inWords({ states })).toBe(words));
