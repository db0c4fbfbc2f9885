// Shows what is pushed to this device, and says so to whoever sent it.

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
    data: { link: data.link, report: data.report },
  })
  const marked = data.badge && navigator.setAppBadge ? navigator.setAppBadge() : undefined
  event.waitUntil(Promise.all([shown.then(() => report(data, 'arrived')), marked]))
})

self.addEventListener('notificationclick', (event) => {
  const { data } = event.notification
  event.notification.close()
  event.waitUntil(
    Promise.all([
      report(data, 'opened'),
      navigator.clearAppBadge ? navigator.clearAppBadge() : undefined,
      data.link ? self.clients.openWindow(data.link) : undefined,
    ]),
  )
})
