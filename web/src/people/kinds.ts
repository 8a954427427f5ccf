/** What the kinds of fields are called. */
import type { Schemas } from "@/api/client";

export const KINDS: Record<Schemas["FieldIn"]["kind"], string> = {
  text: "text",
  number: "number",
  money: "money",
  date: "date",
  yes_no: "yes or no",
  choice: "one of several choices",
  choices: "several choices",
  phone: "phone number",
  link: "web address",
};
