import { createApp, defineAsyncComponent } from 'vue'
import { watchFaces } from '@/plugins/faces'
import Own from './Own.vue'
import '@/styles/base.css'
import '@/styles/visitor.css'

watchFaces()
const app = location.pathname.startsWith('/terminal')
  ? createApp(defineAsyncComponent(() => import('./Terminal.vue')))
  : createApp(Own, { token: location.pathname.split('/').at(-1) ?? '' })
app.mount('#app')
