/** What sentences need around them to be drawn and edited: the words they are made of, and the account's names. A script
 * gives more than that (areas/workflows/script/script.ts); a condition anywhere else, just this. */
import { inject, type InjectionKey, type Ref } from "vue";

import type { Schemas } from "@/api/client";
import type { Book } from "./written";

export interface Around {
  book: Ref<Book>;
  events: Ref<string[]>;
  /** Names of the account by kind, with what is worth knowing of each. */
  names: Ref<Record<string, Schemas["NameOut"][]>>;
  /** Resolves once the names are there, or could not be read. */
  namesRead: () => Promise<void>;
  ownFields: Ref<Record<string, string>>;
  /** Lines that make a task, which others can wait for. */
  tasks: Ref<{ id: string; words: string }[]>;
  /** Merge fields by path, with what to call them. */
  fields: Ref<Map<string, string>>;
  /** Whether parts can be edited now. */
  open: Ref<boolean>;
  /** Selects the line that a sentence stands in. */
  select: (id: string) => void;
  /** To where long words are written, at this field. */
  toNotes: (field?: string) => void;
}

export const AROUND: InjectionKey<Around> = Symbol("around");

export function useAround(): Around {
  const around = inject(AROUND);
  if (!around) throw new Error("there is nothing around this sentence");
  return around;
}
