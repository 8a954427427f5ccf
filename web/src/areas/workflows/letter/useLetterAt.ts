/** The letter that is written in the place of the script, in the address: its line, and which of the line's messages it is. */
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

export function useLetterAt(select: (id: string, focus?: boolean) => void) {
  const route = useRoute();
  const router = useRouter();
  const letterAt = computed(() => {
    const [step, ...field] = String(route.query.letter ?? "").split(".");
    return step && field.length ? ([step, field.join(".")] as const) : undefined;
  });
  async function closeLetter() {
    const step = letterAt.value?.[0] ?? "";
    await router.push({ query: { ...route.query, letter: undefined } });
    select(step, true);
  }
  return { letterAt, closeLetter };
}
