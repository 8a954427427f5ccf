<script setup lang="ts" generic="P extends '/pictures' | '/files'">
/** Brings a file in, for letters or to go with emails; what is wrong with it stands beside. A file may be dropped, too: `bring`. */
import { api, ok, type Schemas } from "@/api/client";
import { filesOf } from "@/ui/events";
import { usePending } from "@/ui/usePending";
import { useScript } from "../script/script";

type Made = P extends "/pictures" ? Schemas["PictureOut"] : Schemas["AttachedFile"];
const props = defineProps<{ to: P; words: string; accept?: string; full?: boolean }>();
const emit = defineEmits<{ brought: [made: Made] }>();
const script = useScript();
const { pending, act, faults } = usePending({ fields: ["file"] });
async function bring(files: FileList | null | undefined) {
  const file = files?.[0];
  if (!file) return;
  await act(async () => {
    const body = new FormData();
    body.append("file", file);
    const asked = {
      params: { path: { account: script.account.value } },
      body: body as never,
      bodySerializer: () => body,
    };
    const made = await (props.to === "/files"
      ? ok(api.POST("/api/accounts/{account}/files", asked))
      : ok(api.POST("/api/accounts/{account}/pictures", asked)));
    emit("brought", made as Made);
  });
}
defineExpose({ bring });
</script>

<template>
  <span>
    <label class="btn btn-link bring" :class="{ disabled: pending }"
      >{{ words }} <input class="sr" type="file" :accept="accept" :disabled="pending || full" @change="bring(filesOf($event))"
    /></label>
    <span v-if="faults.file" class="rust small" role="alert">{{ faults.file }}</span>
  </span>
</template>

<style scoped>
.bring {
  padding: 0;
  cursor: pointer;
}
.bring:focus-within {
  outline: 2px solid var(--sea);
  outline-offset: 2px;
}
</style>
