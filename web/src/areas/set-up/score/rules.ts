/** The rules as they are changed: conditions and happenings as the sentences have them. */
import type { Schemas } from "@/api/client";
import type { Condition, Happening } from "@/sentences/written";

export interface Rules {
  being: { kind: "being"; name: string; points: number; when: Condition; score: string }[];
  doing: { kind: "doing"; name: string; points: number; on: Happening; limit?: number | null; half_life?: string | null; score: string }[];
  marks: Schemas["Mark"][];
  barred: string[];
  /** The names of the scores beside the lead score, whose rules and marks have none. */
  further: string[];
}
export const signed = (points: number) => (points > 0 ? `+${points}` : String(points).replace("-", "−"));
