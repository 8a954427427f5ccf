/** The dialogs that are open, the last one on top: what is refused while one is open is said in it. */
import type { Ref } from "vue";

export const asks: Ref<string>[] = [];
