<script setup lang="ts">
/** Shows a script or a message to the client by a link: they read it, remark on its lines and agree, without signing in. */
import { reactive, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

const props = defineProps<{ workflow: number; what: string; may: boolean }>();
const emit = defineEmits<{ close: [] }>();
const account = useAccount();
const touched = useTouched();
const { data: showings, ...read } = useRead("/workflows/{workflow_id}/showings", () => ({ path: { workflow_id: props.workflow } }), {
  live: true,
});
const client = ref("");
const words = ref("");
watch(showings, (now) => (client.value ||= now?.[0]?.client ?? ""), { immediate: true });
const answers = reactive<Record<number, string>>({});
const { pending, act, faults } = usePending({ fields: ["client", "words"] });
const at = (more: Record<string, number>) => ({ params: { path: { account: account.value, ...more } as never } });
const after = () => touched("/workflows/{workflow_id}/showings", "/messages", "/messages/{message_id}");
const show = () =>
  act(async () => {
    await ok(
      api.POST("/api/accounts/{account}/workflows/{workflow_id}/showings", {
        ...at({ workflow_id: props.workflow }),
        body: { client: client.value, words: words.value },
      }),
    );
    words.value = "";
    await after();
  });
const takeBack = (one: Schemas["ShowingOut"]) =>
  act(async () => {
    await ok(api.POST("/api/accounts/{account}/showings/{showing_id}/end", at({ showing_id: one.id })));
    tell(`The link that ${one.client} had leads nowhere any more.`);
    await after();
  });
const answer = (one: Schemas["RemarkOut"]) =>
  act(async () => {
    await ok(
      api.POST("/api/accounts/{account}/showings/remarks/{remark_id}/answer", {
        ...at({ remark_id: one.id }),
        body: { words: answers[one.id] ?? "" },
      }),
    );
    answers[one.id] = "";
    await after();
  });
const select = (event: FocusEvent) => event.target instanceof HTMLInputElement && event.target.select();
</script>

<template>
  <Ask v-slot="{ close }" title="Show it to the client" wide @close="emit('close')">
    <form v-if="may" @submit.prevent="show">
      <p class="soft">
        Whoever has the link reads {{ what }} as it stands now, says something about it and agrees, without signing in. No contact’s data is
        in it. It works for 60 days.
      </p>
      <p>
        <FormRow class="wide" label="Whom" :fault="faults.client"
          ><BFormInput v-model.trim="client" required maxlength="120" autofocus placeholder="Ros Penhale" class="wide"
        /></FormRow>
      </p>
      <p>
        <FormRow class="wide" label="What you say with it" :fault="faults.words"
          ><BFormTextarea
            v-model="words"
            rows="2"
            maxlength="2000"
            placeholder="This is what I would send. Is the price right?"
            class="wide"
        /></FormRow>
      </p>
      <p><BButton variant="primary" type="submit" :disabled="pending">Make a link</BButton></p>
    </form>
    <ReadState :of="[read]" what="What was shown">
      <section v-for="one in showings" :key="one.id" class="shown" :aria-label="`Shown to ${one.client}, ${one.local_shown}`">
        <h3>
          {{ one.client }} <span class="soft small">{{ one.local_shown }}, by {{ one.shown_by }}</span>
        </h3>
        <p v-if="one.agreed_by" :class="one.is_current ? 'kelp' : 'gorse'">
          <StateMark :is="one.is_current ? 'done' : 'look'" /> {{ one.agreed_by }} agreed, {{ one.local_agreed
          }}{{ one.is_current ? "" : ". It says something else now" }}.
        </p>
        <p v-else-if="!one.is_current" class="soft small">It says something else now than what was shown.</p>
        <p v-if="one.address" class="link">
          <BFormInput :model-value="one.address" readonly :aria-label="`Link for ${one.client}`" @focus="select" /><a
            :href="one.address"
            target="_blank"
            rel="noopener"
            class="small"
            >Open it</a
          ><BButton v-if="may" variant="link" class="small" :disabled="pending" @click="takeBack(one)">Take the link back</BButton>
        </p>
        <p v-else class="soft small">The link leads nowhere any more.</p>
        <ul v-if="one.remarks.length">
          <li v-for="remark in one.remarks" :key="remark.id">
            <span class="soft small">{{ remark.sentence || "about the whole" }} · {{ remark.local_made }}</span>
            <p class="serif said">
              <b>{{ remark.who }}</b>: {{ remark.words }}
            </p>
            <p v-if="remark.answer" class="serif said reply">
              <b>{{ remark.answered_by }}</b>: {{ remark.answer }}
            </p>
            <form v-else-if="may" class="answer" @submit.prevent="answer(remark)">
              <BFormInput v-model="answers[remark.id]" :aria-label="`Answer to ${remark.who}`" maxlength="2000" placeholder="Answer" />
              <BButton type="submit" variant="outline-primary" :disabled="pending || !answers[remark.id]?.trim()">Answer</BButton>
            </form>
          </li>
        </ul>
      </section>
    </ReadState>
    <div class="actions"><BButton variant="link" @click="close">Close</BButton></div>
  </Ask>
</template>

<style scoped>
.shown {
  border-top: 1px solid var(--rule);
  padding: 10px 0;
}
h3 {
  font: 600 17px var(--serif);
  margin: 0 0 4px;
}
p {
  margin: 0 0 6px;
}
.link,
.answer {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
}
.link :deep(input),
.answer :deep(input) {
  flex: 1 1 16rem;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  border-left: 2px solid var(--rule);
  padding-left: 12px;
  margin-bottom: 10px;
}
.wide,
.wide :deep(.form-control) {
  width: min(40rem, 100%);
}
.said {
  white-space: pre-line;
  overflow-wrap: anywhere;
}
.reply {
  padding-left: 14px;
}
</style>
