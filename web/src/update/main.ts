import { createApp } from 'vue'
import { watchFaces } from '@/plugins/faces'
import Update from './Update.vue'
import '@/styles/base.css'
import '@/styles/visitor.css'

watchFaces()
createApp(Update, { token: location.pathname.split('/').at(-1) ?? '' }).mount('#app')
