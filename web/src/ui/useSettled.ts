/** A ref that follows another once it has been still for some milliseconds, and keeps the very same object: VueUse's
 * refDebounced would make a reactive copy of it, which is another object to whoever compares or keys by identity. */
import { watchDebounced } from "@vueuse/core";
import { shallowRef, type Ref, type ShallowRef } from "vue";

export function useSettled<T>(source: Ref<T>, pause: number): ShallowRef<T> {
  const follower = shallowRef(source.value) as ShallowRef<T>;
  watchDebounced(source, (next) => (follower.value = next), { debounce: pause });
  return follower;
}
