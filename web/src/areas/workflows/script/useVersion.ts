/** The version that runs: published, opened and closed to newcomers, and gone back to. */
import { ref, type Ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import type { useDraft } from "./useDraft";

export function useVersion(account: Ref<string>, stored: Schemas["WorkflowOut"], draft: ReturnType<typeof useDraft>) {
  const version = ref(stored.version);
  const isOpen = ref(stored.open);
  draft.changes.value = stored.changes;
  const { act } = usePending();
  const path = () => ({ account: account.value, workflow_id: stored.id });

  /** Once it is published: what is so now. */
  async function published(said: string): Promise<void> {
    tell(said);
    const now = await ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}", { params: { path: path() } }));
    version.value = now.version;
    isOpen.value = now.open;
    draft.changes.value = now.changes;
  }
  /** Makes an earlier version the draft again, as one change that can be undone. */
  async function goBack(number: number): Promise<void> {
    await act(async () => {
      const earlier = await ok(
        api.GET("/api/accounts/{account}/workflows/{workflow_id}/versions/{number}", { params: { path: { ...path(), number } } }),
      );
      draft.change((draftDoc) => Object.assign(draftDoc, earlier.document));
      tell(`The draft is version ${number} again. Ctrl Z takes that back.`);
      window.history.replaceState(window.history.state, "", window.location.pathname);
    });
  }
  async function setOpen(open: boolean): Promise<void> {
    await act(async () => {
      const now = await ok(
        api.POST("/api/accounts/{account}/workflows/{workflow_id}/door/{state}", {
          params: { path: { ...path(), state: open ? "open" : "close" } },
        }),
      );
      isOpen.value = now.open;
    });
  }
  return { version, isOpen, published, goBack, setOpen };
}
