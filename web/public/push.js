// Shows what is pushed to this device, and says so to whoever sent it. Lets a personal page
// that is kept here open without a network.

const report = (data, state) =>
  data.report
    ? fetch(data.report, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ state }),
      }).catch(() => undefined)
    : Promise.resolve()

self.addEventListener('install', () => self.skipWaiting())
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))

self.addEventListener('push', (event) => {
  const data = event.data.json()
  const shown = self.registration.showNotification(data.title, {
    body: data.body,
    lang: data.lang,
    dir: 'auto',
    tag: data.key, // one that comes twice is shown once
    silent: Boolean(data.quiet),
    requireInteraction: !data.quiet,
    icon: '/lantern.svg',
    actions: (data.choices ?? []).map((title, i) => ({ action: String(i + 1), title })),
    data: { link: data.link, report: data.report, answer: data.answer, asks: Boolean(data.choices) },
  })
  const marked = data.badge && navigator.setAppBadge ? navigator.setAppBadge() : undefined
  event.waitUntil(Promise.all([shown.then(() => report(data, 'arrived')), marked]))
})

const kept = 'own'
const here = '/own/' // under which it is kept which page is whose

self.addEventListener('message', (event) => {
  if (event.data.forget) event.waitUntil(caches.delete(kept))
  if (event.data.keep) event.waitUntil(keep(event.data.keep, event.data.own))
})

async function keep(paths, own) {
  const cache = await caches.open(kept)
  const old = (await cache.keys()).filter((k) => new URL(k.url).pathname.startsWith('/assets/'))
  await cache.addAll(paths)
  await cache.put(here, new Response(own))
  await Promise.all(old.filter((k) => !paths.includes(new URL(k.url).pathname)).map((k) => cache.delete(k)))
}

self.addEventListener('fetch', (event) => {
  const { method, url } = event.request
  const { origin, pathname } = new URL(url)
  if (method !== 'GET' || origin !== location.origin) return
  if (pathname.startsWith('/assets/')) event.respondWith(keptOrFresh(event.request))
  else if (/^(\/api)?\/own\/[^/]+$/.test(pathname)) event.respondWith(freshOrKept(event.request))
})

async function keptOrFresh(request) {
  return (await caches.match(request, { cacheName: kept })) ?? fetch(request)
}

async function freshOrKept(request) {
  const cache = await caches.open(kept)
  const isKept =
    (await (await cache.match(here))?.text()) === new URL(request.url).pathname.replace('/api', '')
  try {
    const fresh = await fetch(request)
    if (isKept && fresh.ok) await cache.put(request, fresh.clone())
    return fresh
  } catch (problem) {
    const last = await cache.match(request)
    if (!last) throw problem
    const headers = new Headers(last.headers)
    headers.set('x-kept', '1')
    return new Response(last.body, { headers })
  }
}

/** The page that is kept here; nothing if there is none. */
async function ownPage() {
  return (await caches.match(here, { cacheName: kept }))?.text()
}

/** What opens: an answer's own page, the link, the page that is kept here, or that of the push. */
async function opens({ link, answer, asks }, action) {
  if (action) return `${answer}?say=${action}`
  return link || (!asks && (await ownPage())) || answer
}

self.addEventListener('notificationclick', (event) => {
  const { data } = event.notification
  event.notification.close()
  event.waitUntil(
    Promise.all([
      report(data, 'opened'),
      navigator.clearAppBadge ? navigator.clearAppBadge() : undefined,
      opens(data, event.action).then((page) => page && self.clients.openWindow(page)),
    ]),
  )
})
