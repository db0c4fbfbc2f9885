import type { Schemas } from '@/api/client'

export type Device = Schemas['OwnDevice']

/** The bytes of base64url. */
export function bytesOf(text: string): Uint8Array<ArrayBuffer> {
  const plain = atob(text.replace(/-/g, '+').replace(/_/g, '/'))
  return Uint8Array.from(plain, (c) => c.charCodeAt(0))
}

/**
 * Lets this browser be pushed to, under the organisation's key. Throws when
 * the browser or its owner does not allow it.
 */
export async function subscribe(key: string): Promise<Device> {
  if ((await Notification.requestPermission()) !== 'granted') throw new Error('not allowed')
  await navigator.serviceWorker.register('/push.js')
  const { pushManager } = await navigator.serviceWorker.ready
  const made = await pushManager.subscribe({ userVisibleOnly: true, applicationServerKey: bytesOf(key) })
  const { endpoint, keys } = made.toJSON()
  const phone = /Mobi|Android/.test(navigator.userAgent)
  return {
    name: '',
    kind: phone ? 'phone' : 'browser',
    endpoint: endpoint ?? '',
    p256dh: keys?.p256dh ?? '',
    auth: keys?.auth ?? '',
  }
}
