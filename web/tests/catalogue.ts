/** What a script can be written with, as the server gives it: asked from the core itself, so that no copy of it grows old. */
import { execFileSync } from "node:child_process";
import { fileURLToPath } from "node:url";

import type { Schemas } from "@/api/client";
import type { Book, Kind } from "@/sentences/written";

const HOME = fileURLToPath(new URL("../../", import.meta.url));
const ASK = "from bluffside.core.catalogue import catalogue; print(catalogue().model_dump_json())";
const said = execFileSync(`${HOME}.venv/bin/python`, ["-c", ASK], { env: { ...process.env, PYTHONPATH: `${HOME}src` }, encoding: "utf8" });

export const catalogue = JSON.parse(said) as Schemas["Catalogue"];
export const kinds: Kind[] = catalogue.kinds;
export const kindNamed = (name: string) => kinds.find((one) => one.kind === name) as Kind;
export const book: Book = {
  tests: new Map(catalogue.tests.map((one) => [one.kind, one])),
  triggers: new Map(catalogue.triggers.map((one) => [one.kind, one])),
  fieldName: (field) => field,
  lineName: (line) => line,
};
