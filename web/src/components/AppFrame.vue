<script setup lang="ts">
import { computed, defineAsyncComponent, ref, useTemplateRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useEventListener, whenever } from '@vueuse/core'
import { useQueryClient } from '@tanstack/vue-query'
import { forgetAllUnkept } from '@/composables/unkept'
import { api, take } from '@/api/client'
import { useDesks } from '@/composables/desks'
import { useEvents } from '@/composables/events'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useRights, useSession } from '@/composables/session'
import type FindBoxKind from './FindBox.vue'
import type { Found } from './FindBox.vue'
import LampStrip from './LampStrip.vue'
import LanternMark from './LanternMark.vue'
import SaidBar from './SaidBar.vue'

const FindBox = defineAsyncComponent(() => import('./FindBox.vue')) // right after the page stands
// Loaded when they are first opened; they stay then, so that they close as they should.
const AccountMenu = defineAsyncComponent(() => import('./AccountMenu.vue'))
const PersonDrawer = defineAsyncComponent(() => import('@/person/PersonDrawer.vue'))
const ShortcutList = defineAsyncComponent(() => import('./ShortcutList.vue'))

useEvents()
const router = useRouter()
const route = useRoute()
const client = useQueryClient()
const { data: session } = useSession()
const may = useRights()
const { data: desks } = useDesks()
const { open: personOpen, show } = usePersonDrawer()
const personWanted = ref(false)
whenever(personOpen, () => (personWanted.value = true), { immediate: true })
const find = useTemplateRef<InstanceType<typeof FindBoxKind>>('find')
const menuWanted = ref(false)
const shortcuts = ref(false)
const shortcutsWanted = ref(false)
whenever(shortcuts, () => (shortcutsWanted.value = true))

const areas = computed(() =>
  (
    [
      { to: '/today', name: 'Today', within: ['today'], rights: [] },
      { to: '/write', name: 'Write', within: ['write', 'letters'], rights: ['write'] },
      {
        to: '/outgoing',
        name: 'Outgoing',
        within: ['outgoing', 'record', 'board'],
        rights: ['write', 'read-records'],
      },
      { to: '/desks', name: 'Desks', within: ['desks'], rights: [] },
      { to: '/jobs', name: 'Jobs', within: ['jobs'], rights: ['see-people'] },
      { to: '/reports', name: 'Reports', within: ['reports'], rights: ['run-reports'] },
      {
        to: '/people',
        name: 'People',
        within: ['people', 'import', 'gaps', 'twins', 'changes', 'sheets'],
        rights: ['see-people', 'edit-people', 'write'],
      },
      { to: '/groups', name: 'Groups', within: ['groups'], rights: ['see-people', 'edit-people', 'write'] },
      { to: '/shelf', name: 'Shelf', within: ['shelf', 'memory', 'glossary'], rights: ['write'] },
    ] as const
  ).filter((area) =>
    area.name === 'Desks' ? desks.value?.length : area.name === 'Today' || area.rights.some(may),
  ),
)
const here = (area: { within: readonly string[] }) => area.within.includes(String(route.name))

function go(found: Found) {
  if (found.kind === 'person') show(found.id)
  else if (found.kind === 'group') void router.push({ name: 'groups', query: { group: found.id } })
  else void router.push(`/outgoing/${found.id}`)
}

useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  const typing =
    event.target instanceof HTMLElement && event.target.matches('input, textarea, select, [contenteditable]')
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
    find.value?.focus()
    event.preventDefault()
  } else if (event.key === '?' && !typing) {
    shortcuts.value = true
  }
})

async function signOut() {
  forgetAllUnkept()
  await take(api.DELETE('/session'))
  client.clear()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <div class="frame">
    <a class="sr-only skip" href="#page">Skip to the page</a>
    <header class="band">
      <LanternMark />
      <span class="org" :title="session?.organisation">{{ session?.organisation }}</span>
      <nav aria-label="Areas">
        <router-link
          v-for="area in areas"
          :key="area.to"
          :to="area.to"
          :class="{ on: here(area) }"
          :aria-current="here(area) ? 'page' : undefined"
          >{{ area.name }}</router-link
        >
      </nav>
      <FindBox
        ref="find"
        class="anything"
        :kinds="['person', 'group', 'message']"
        label="Find anything (Ctrl K)"
        dark
        @pick="go"
      />
      <AccountMenu v-if="menuWanted" @sign-out="signOut" @keys="shortcuts = true" />
      <button
        v-else
        class="me"
        aria-haspopup="menu"
        :aria-label="`${session?.name}: your menu`"
        @click="menuWanted = true"
      >
        {{ session?.initials }}
      </button>
    </header>
    <main id="page" tabindex="-1">
      <router-view :key="$route.name === 'write' ? 'write' : String($route.name)" />
    </main>
    <LampStrip />
    <PersonDrawer v-if="personWanted" />
    <SaidBar />
    <ShortcutList v-if="shortcutsWanted" v-model="shortcuts" />
  </div>
</template>

<style scoped>
.frame {
  height: 100dvh;
  display: grid;
  grid-template: 46px minmax(0, 1fr) 40px / minmax(0, 1fr);
}

.skip:focus {
  clip-path: none;
  width: auto;
  height: auto;
  z-index: 100;
  background: #fff;
  padding: 8px;
}

.band {
  background: var(--deep);
  color: #dbe8ec;
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 0 16px;
}

.org {
  font-weight: 600;
  color: #fff;
  margin: 0 18px 0 8px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 300px;
}

nav {
  display: flex;
  gap: 4px;
}

nav a {
  color: #c3d8de;
  padding: 6px 11px;
  border-radius: 4px;
  font-weight: 500;
  text-decoration: none;
}

nav a:hover {
  color: #fff;
}

nav a.on {
  color: #fff;
  background: var(--deep2);
  box-shadow: inset 0 -2px 0 #7fb6c4;
}

.anything {
  margin-inline-start: auto;
  width: 210px;
}

/* The menu that takes its place looks the same. */
.band :deep(.me) {
  margin-inline-start: 10px;
  width: 28px;
  height: 28px;
  border: 0;
  border-radius: 6px;
  background: #2b6475;
  color: #fff;
  font: inherit;
  font-size: 12px;
  font-weight: 600;
  cursor: pointer;
}

.band :focus-visible {
  outline-color: #fff;
}

main {
  min-height: 0;
  overflow: auto;
  outline: 0;
}
</style>
