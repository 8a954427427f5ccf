/** One question before something that cannot be taken back: what will happen, and the act by its name. Asked from anywhere; it
 * stands once, in App. What can be taken back is done at once, and told with its undo (told.ts). */
import { shallowRef } from "vue";

export interface Question {
  title: string;
  act: string;
  words: string;
  /** Answers false where it was refused, and that is said already. */
  yes: () => Promise<unknown>;
}
export const question = shallowRef<Question>();

export function sure(asked: Question): void {
  question.value = asked;
}
