import { ref } from "vue";

/** Addresses of lead sources that were made a moment ago, by the source: the server tells them once, and the page of the source
 * shows them until it is loaded anew. */
const made = ref<Record<number, string>>({});
export const useMadeAddress = () => made;
