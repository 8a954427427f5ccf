import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";

import { many, moment, money, number, several } from "@/ui/words";

interface Example {
  says: "number" | "many" | "money" | "several" | "moment";
  given: never[];
  is: string;
}
const EXAMPLES = JSON.parse(readFileSync(new URL("../../tests/words.json", import.meta.url), "utf8")) as Example[];
const SAYS: Record<Example["says"], (...given: never[]) => string> = { number, many, money, several, moment };

describe("the page writes as the table of examples says, which holds the server to the same", () => {
  test.each(EXAMPLES)("$says of $given is “$is”", ({ says, given, is }) => expect(SAYS[says](...given)).toBe(is));
});
