<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useMutation } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { useRights } from '@/composables/session'
import { count, people, thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import PaneHead from '@/components/PaneHead.vue'
import LeftOutDrawer from './LeftOutDrawer.vue'
import NeedsCard from './NeedsCard.vue'

/** What needs a hand, and what the message was. */
const props = defineProps<{ record: Schemas['RecordView'] }>()
const leftOut = ref(false)
const told = ref(false)
const may = useRights()
const router = useRouter()

/** How a message belongs to this one. */
const chainWords: Record<Schemas['ChainedView']['as'], string> = {
  '': 'the first of them',
  again: 'sent again',
  further: 'to further people',
  unanswered: 'to those who had not answered',
  filled: 'that enough have answered',
  correction: 'a correction',
  'all-clear': 'an all-clear',
}

/** A message to exactly those who got a copy, to correct what it said. */
const correct = useMutation({
  mutationFn: (language: string) =>
    take(
      api.POST('/messages/{id}/follow', {
        params: { path: { id: props.record.message.id } },
        body: { as: 'correction', language },
      }),
    ),
  onSuccess: (m) => router.push(`/write/${m.id}`),
})
</script>

<template>
  <aside aria-label="About this message">
    <NeedsCard :record="record" />
    <p v-if="record.message.figures.leftOut" class="quiet small">
      {{ people(record.message.figures.leftOut) }} got nothing.
      <button class="link" @click="leftOut = true">See who, and why</button>
    </p>
    <p v-if="record.message.figures.told" class="quiet small">
      {{ count(record.message.figures.told, 'dependent was', 'dependents were') }} told through a guardian.
      <button class="link" @click="told = true">See who</button>
    </p>
    <template v-if="record.chain.length">
      <PaneHead class="gap" title="Belongs together" />
      <ul class="chain sheet">
        <li v-for="c in record.chain" :key="c.id">
          <span class="quiet small">{{ chainWords[c.as] }}{{ c.state === 'draft' ? ', a draft' : '' }}</span>
          <router-link class="link" :to="c.state === 'draft' ? `/write/${c.id}` : `/outgoing/${c.id}`"
            ><bdi>{{ c.title }}</bdi></router-link
          >
        </li>
      </ul>
    </template>
    <PaneHead class="gap" title="Steps used" />
    <table class="plain sheet">
      <tbody>
        <tr v-for="s in record.steps" :key="s.step">
          <td>
            <span class="row"
              ><span class="quiet">{{ s.step }}</span
              ><ChannelMark v-for="c in s.channels" :key="c" :channel="c as 'email'" />{{
                s.channels.join(', ')
              }}</span
            >
          </td>
          <td class="num">{{ thousands(s.people) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="record.saving" class="quiet small saved">
      Precedence saved {{ count(record.saving, 'message', 'messages')
      }}<template v-if="record.saved"> and {{ record.saved }}</template
      >: all channels at once would have been {{ thousands(record.atOnce) }}.
    </p>
    <PaneHead class="gap" title="What they read" />
    <table class="plain sheet">
      <tbody>
        <tr v-for="l in record.languages" :key="`${l.tag} ${l.got}`">
          <td>
            {{ l.name }}
            <span v-if="l.trust" class="quiet small trust">{{ l.trust }}</span>
          </td>
          <td class="num">{{ thousands(l.people) }}</td>
          <td class="quiet small">
            <router-link v-if="l.got" class="link" :to="`/write/${record.message.id}/copies/${l.got}`"
              >their copy</router-link
            >
            <button
              v-if="l.got && may('write')"
              class="link small"
              :title="`Write to the ${l.people} who got the ${l.name} copy`"
              @click="correct.mutate(l.got)"
            >
              Write to them
            </button>
            <template v-else>{{ l.reads ? 'original' : 'untranslated' }}</template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="record.trust.checked || record.trust.unread" class="quiet small">
      {{ people(record.trust.checked) }} got a copy that was checked<template v-if="record.trust.unread"
        >, {{ people(record.trust.unread) }} one that nobody had read whole</template
      ><template v-if="record.trust.untranslated"
        >, {{ people(record.trust.untranslated) }} the original though they read another language</template
      >.
    </p>
    <PaneHead class="gap" title="What it said" />
    <div class="sheet wrote">
      <b v-if="record.subject" dir="auto">{{ record.subject }}</b>
      <p dir="auto" class="said">{{ record.email || record.text }}</p>
      <p v-if="record.files.length" class="small quiet">with {{ record.files.join(', ') }}</p>
      <template v-if="record.email && record.text !== record.email.trim()">
        <span class="quiet small">as a text and read aloud</span>
        <p dir="auto" class="said">{{ record.text }}</p>
      </template>
    </div>
    <LeftOutDrawer
      v-model="told"
      told
      :message="record.message.id"
      title="Told through a guardian"
      :note="record.message.title"
    />
    <LeftOutDrawer
      v-model="leftOut"
      :message="record.message.id"
      :title="`${people(record.message.figures.leftOut)} got nothing`"
      :note="record.message.title"
    />
  </aside>
</template>

<style scoped>
.saved {
  margin-top: 8px;
}

.trust {
  display: block;
}

aside {
  overflow: auto;
  background: var(--pane);
  border-left: 1px solid var(--line);
  padding: 12px 14px;
}

.gap {
  margin-top: 16px;
}

.chain {
  list-style: none;
  margin: 0;
  padding: 3px 10px;
}

.chain li {
  display: flex;
  flex-direction: column;
  padding: 3px 0;
}

.wrote {
  padding: 8px 10px;
}

.wrote p {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin: 2px 0 8px;
}
</style>
