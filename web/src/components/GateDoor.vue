<script setup lang="ts">
import LanternMark from './LanternMark.vue'

/** The dark side of a page that is seen before anybody has signed in. */
</script>

<template>
  <section class="door">
    <div class="mark"><LanternMark /><b>Upper Lantern</b></div>
    <slot />
    <svg class="water" viewBox="0 0 400 90" preserveAspectRatio="none" aria-hidden="true">
      <path d="M0 40q50-22 100 0t100 0 100 0 100 0v50H0z" fill="#174a59" />
      <path d="M0 60q50-16 100 0t100 0 100 0 100 0v30H0z" fill="#1f5c6d" />
    </svg>
  </section>
</template>

<style scoped>
.door {
  position: relative;
  overflow: hidden;
  background: var(--deep);
  color: #dbe8ec;
  padding: 12vh 8% 0;
  display: flex;
  flex-direction: column;
  gap: 14px;
}

.mark {
  display: flex;
  align-items: center;
  gap: 10px;
  font-size: 20px;
  color: #fff;
}

.mark :deep(svg) {
  width: 30px;
  height: 36px;
}

.door :slotted(.org) {
  font-size: 16px;
  color: #fff;
  font-weight: 600;
}

.door :slotted(.promise) {
  max-width: 34ch;
  font-size: 15px;
  color: #bcd2d9;
}

.water {
  position: absolute;
  inset: auto 0 0;
  width: 100%;
  height: 24vh;
}
</style>
