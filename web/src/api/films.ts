import { Refusal, sentence } from './client'

const LOOK_MS = 1000

/** Waits until a film can be had, which the server makes on being asked for it; a Refusal where it cannot be made. */
export async function made(address: string): Promise<void> {
  for (;;) {
    const answer = await fetch(address, { headers: { Range: 'bytes=0-0' } })
    if (answer.status === 202) {
      await new Promise((done) => setTimeout(done, LOOK_MS))
      continue
    }
    if (answer.ok) return
    throw new Refusal(sentence(await answer.json().catch(() => null), answer.status))
  }
}
