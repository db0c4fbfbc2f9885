<template>
  <nav class="tabs" aria-label="On the shelf">
    <router-link to="/shelf" exact-active-class="on">Templates</router-link>
    <router-link to="/shelf/memory" exact-active-class="on">Memory</router-link>
    <router-link to="/shelf/glossary" exact-active-class="on">Glossary</router-link>
  </nav>
</template>
