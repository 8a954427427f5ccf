/** Which channels and purposes a rule is about, in words and to choose from. */
import type { Schemas } from "@/api/client";
import { several } from "@/ui/words";

export type Channels = readonly string[] | undefined;
export const PURPOSES = [
  { value: "marketing", words: "news and offers" },
  { value: "service", words: "what they booked or asked for" },
];
const NAMES: Record<string, string> = {
  text: "texts",
  email: "emails",
  letter: "letters",
  push: "push notices",
  social: "social messages",
};

export const channelChoices = (channels: readonly Schemas["ChannelOut"][] = []) =>
  channels.map((one) => ({ value: one.name as string, words: NAMES[one.name] ?? one.name }));

/** `all`: what is said where every one is meant; none named means every one, too. */
export function someOf(value: readonly string[] | undefined, choices: readonly { value: string; words: string }[], all: string): string {
  if (!value || value.length >= choices.length) return all;
  return several(choices.filter((one) => value.includes(one.value)).map((one) => one.words));
}
