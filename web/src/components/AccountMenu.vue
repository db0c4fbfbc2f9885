<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useRights, useSession } from '@/composables/session'

/** The menu of whoever is signed in, open from the start. */
defineEmits<{ signOut: []; keys: [] }>()

const open = ref(true)
const router = useRouter()
const { data: session } = useSession()
const may = useRights()
</script>

<template>
  <v-menu v-model="open">
    <template #activator="{ props: menu }">
      <button class="me" v-bind="menu" :aria-label="`${session?.name}: your menu`">
        {{ session?.initials }}
      </button>
    </template>
    <div class="menu sheet" role="menu">
      <div class="who">
        <b>{{ session?.name }}</b>
        <div class="quiet small">{{ session?.duty }}</div>
        <div class="quiet small">
          {{
            session?.scope.whole ? 'reaches the whole organisation' : `reaches ${session?.units.join(', ')}`
          }}
        </div>
      </div>
      <button v-if="session?.bench" role="menuitem" @click="router.push('/bench')">
        The Bench: demo phones and mailboxes
      </button>
      <button role="menuitem" @click="router.push('/account')">Your account</button>
      <button v-if="may('change-settings')" role="menuitem" @click="router.push('/settings')">
        Settings
      </button>
      <button role="menuitem" @click="$emit('keys')">Keys</button>
      <button role="menuitem" @click="$emit('signOut')">Sign out</button>
    </div>
  </v-menu>
</template>

<style scoped>
.menu {
  padding: 4px;
  min-width: 240px;
  color: var(--ink);
}

.who {
  padding: 8px 10px;
  border-bottom: 1px solid var(--hair);
  margin-bottom: 4px;
}

.menu button {
  display: block;
  width: 100%;
  border: 0;
  border-radius: 4px;
  background: none;
  font: inherit;
  text-align: start;
  padding: 7px 10px;
  cursor: pointer;
}

.menu button:hover {
  background: #e3edf0;
}
</style>
