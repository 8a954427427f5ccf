/** One act at a time, with what went wrong kept in words. */
import { ref } from "vue";

export function usePending() {
  const pending = ref(false);
  const fault = ref("");
  async function act(what: () => Promise<unknown>): Promise<boolean> {
    if (pending.value) return false;
    pending.value = true;
    fault.value = "";
    try {
      await what();
      return true;
    } catch (error) {
      fault.value = (error as Error).message;
      return false;
    } finally {
      pending.value = false;
    }
  }
  return { pending, fault, act };
}
