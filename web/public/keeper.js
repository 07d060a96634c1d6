// Keeps the athlete's page on the phone, so that it opens without a connection: the page itself from the network first, its parts (whose
// names change with their content) from what is kept first. What was entered lies in the page's own storage and is not touched here.
const KEPT = 'work-1'

self.addEventListener('install', () => self.skipWaiting())
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))
self.addEventListener('message', (event) => {
  const parts = Array.isArray(event.data) ? event.data : []
  event.waitUntil(caches.open(KEPT).then((kept) => Promise.allSettled(['/w/', ...parts].map((part) => kept.add(part)))))
})
self.addEventListener('fetch', (event) => {
  const { request } = event
  const url = new URL(request.url)
  if (request.method !== 'GET' || url.origin !== location.origin) return
  if (request.mode === 'navigate' && url.pathname.startsWith('/w/')) {
    event.respondWith(
      fetch(request)
        .then((answer) => {
          if (answer.ok) {
            const copy = answer.clone()
            void caches.open(KEPT).then((kept) => kept.put('/w/', copy))
          }
          return answer
        })
        .catch(() => caches.match('/w/')),
    )
  } else if (url.pathname.startsWith('/static/assets/')) {
    event.respondWith(
      caches.match(request).then(
        (held) =>
          held ??
          fetch(request).then((answer) => {
            if (answer.ok) {
              const copy = answer.clone()
              void caches.open(KEPT).then((kept) => kept.put(request, copy))
            }
            return answer
          }),
      ),
    )
  }
})
