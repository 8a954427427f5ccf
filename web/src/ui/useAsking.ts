/** Which question stands open on a page, "" for none; one of `askable` is opened by the address, too (`?ask=`), which then
 * forgets it. */
import { ref, watch, type Ref } from "vue";
import { useRoute, useRouter } from "vue-router";

export function useAsking<T extends string>(...askable: T[]): Ref<T | ""> {
  const route = useRoute();
  const router = useRouter();
  const asking = ref("") as Ref<T | "">;
  watch(
    () => route.query.ask,
    (wanted) => {
      if (!wanted) return;
      asking.value = askable.find((one) => one === wanted) ?? "";
      void router.replace({ query: { ...route.query, ask: undefined } });
    },
    { immediate: true },
  );
  return asking;
}
