<template>
  <svg class="lantern" viewBox="0 0 22 26" aria-hidden="true">
    <path d="M11 1l8 6H3z" fill="#ffb21a" />
    <rect x="5" y="8" width="12" height="9" fill="none" stroke="#ffb21a" stroke-width="2" />
    <path d="M4 19h14M6 23h10" stroke="#dbe8ec" stroke-width="2" />
  </svg>
</template>

<style scoped>
.lantern {
  width: 22px;
  height: 26px;
  flex: none;
}
</style>
