/** A ref that follows another once it has been still for some milliseconds. */
import { type Ref, shallowRef, watch } from "vue";

export function refDebounced<T>(source: Ref<T>, pause: number): Ref<T> {
  const follower = shallowRef(source.value) as Ref<T>;
  let timer = 0;
  watch(source, (next) => {
    window.clearTimeout(timer);
    timer = window.setTimeout(() => (follower.value = next), pause);
  });
  return follower;
}
