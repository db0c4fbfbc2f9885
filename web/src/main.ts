import { createApp } from 'vue'
import { VueQueryPlugin } from '@tanstack/vue-query'
import App from './App.vue'
import { watchFaces } from './plugins/faces'
import { queryClient } from './plugins/query'
import { router } from './plugins/router'
import { vuetify } from './plugins/vuetify'
import './styles/base.css'
import './styles/vuetify.css'

watchFaces()
createApp(App).use(router).use(vuetify).use(VueQueryPlugin, { queryClient }).mount('#app')
