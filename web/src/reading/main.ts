import { createApp } from 'vue'
import { watchFaces } from '@/plugins/faces'
import Reading from './Reading.vue'
import '@/styles/base.css'
import '@/styles/visitor.css'

watchFaces()
createApp(Reading, { token: location.pathname.split('/').at(-1) ?? '' }).mount('#app')
