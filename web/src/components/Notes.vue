<script setup lang="ts">
import FilmLink from './FilmLink.vue'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { api, ask, csrfToken, sentence, type Schemas } from '@/api/client'
import { frameThen, lookThen, useVoice, type Look, type Spoken } from './voice'

/** The coach's words at frames of the clip, written or spoken; they go out with the review. */
const props = defineProps<{ clip: string; frame: number; look: Look }>()
const emit = defineEmits<{
  go: [frame: number]
  /** The stage is to be looked at as it was when a note was spoken; null: as the coach has it now. */
  look: [look: Look | null]
}>()
const notes = ref<Schemas['Note'][]>([])
const words = ref('')
const trouble = ref('')
const field = ref<HTMLTextAreaElement | null>(null)
/** Words not kept yet stay with their clip, whatever is opened meanwhile. */
const draft = () => `note.${props.clip}`
watch(
  () => props.clip,
  () => (words.value = sessionStorage.getItem(draft()) ?? ''),
  { immediate: true },
)
watch(words, (now) => sessionStorage.setItem(draft(), now))

async function guarded(work: () => Promise<Schemas['Note'][]>) {
  const clip = props.clip
  try {
    const told = await work()
    // What belongs to a clip that was left meanwhile is kept there, not shown here.
    if (clip === props.clip) notes.value = told
    trouble.value = ''
    return true
  } catch (error) {
    trouble.value = (error as Error).message
    return false
  }
}
const path = () => ({ params: { path: { id: props.clip } } })
const load = () => guarded(() => ask(api.GET('/api/clips/{id}/notes', path())))
onMounted(load)
watch(() => props.clip, load)

async function keep() {
  const told = words.value.trim()
  if (!told) return
  const body = { frame: props.frame, words: told }
  if (!(await guarded(() => ask(api.POST('/api/clips/{id}/notes', { ...path(), body }))))) return
  words.value = ''
  // The keys are the bench's again.
  field.value?.blur()
}
const takeBack = (note: number) =>
  guarded(() => ask(api.DELETE('/api/clips/{id}/notes/{note}', { params: { path: { id: props.clip, note } } })))
/** A recording goes up as a form; the typed client speaks JSON only. */
function send({ key, clip, sound, shown, looked }: Spoken) {
  const form = new FormData()
  form.set('frame', String(shown[0]![1]))
  form.set('sound', sound, 'voice')
  form.set('shown', JSON.stringify(shown))
  form.set('looked', JSON.stringify(looked ?? []))
  return guarded(async () => {
    let answer: Response
    try {
      const headers = { 'X-CSRFToken': csrfToken(), 'Idempotency-Key': key }
      answer = await fetch(`/api/clips/${clip}/voice`, { method: 'POST', body: form, headers })
    } catch {
      throw new Error('The server cannot be reached. What you said is kept in this browser; send it again in a moment.')
    }
    const told = await answer.json().catch(() => null)
    if (!answer.ok) throw new Error(sentence(told, answer.status))
    return told as Schemas['Note'][]
  })
}
const voice = useVoice(send)
const held = computed(() => voice.held.value.filter((one) => one.clip === props.clip))
watch(() => props.clip, voice.findHeld, { immediate: true })
watch(() => props.frame, voice.see)
watch(() => props.look, voice.lookAt)
function say() {
  if (voice.recording.value) return voice.end()
  return voice.begin(props.clip, props.frame, props.look)
}

/** The recording that one more click throws away: nobody else has it. */
const leaving = ref<Spoken['key'] | null>(null)
function throwAway(one: Spoken) {
  if (leaving.value === one.key) return voice.leave(one)
  leaving.value = one.key
}

/** Which spoken note is being heard: the stage shows what it showed then. */
const heard = ref(0)
const player = ref<HTMLAudioElement | null>(null)
let following = 0
function follow(note: Schemas['Note']) {
  const audio = player.value
  if (!audio || heard.value !== note.id) return
  const frame = frameThen(note.shown, audio.currentTime)
  if (frame !== null && frame !== props.frame) emit('go', frame)
  emit('look', lookThen(note.looked, audio.currentTime))
  following = requestAnimationFrame(() => follow(note))
}
async function hear(note: Schemas['Note']) {
  const again = heard.value !== note.id
  hush()
  if (!again || !player.value) return
  heard.value = note.id
  player.value.src = `/api/clips/${props.clip}/notes/${note.id}/voice.m4a`
  try {
    await player.value.play()
    follow(note)
  } catch {
    hush()
    trouble.value = 'This cannot be played here.'
  }
}
function hush() {
  cancelAnimationFrame(following)
  player.value?.pause()
  if (heard.value) emit('look', null)
  heard.value = 0
}
function leave() {
  hush()
  if (voice.recording.value) voice.end()
}
watch(() => props.clip, leave)
onBeforeUnmount(leave)

async function start() {
  await nextTick()
  field.value?.focus()
}
defineExpose({ start, say })
</script>

<template>
  <div class="notes">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <form @submit.prevent="keep">
      <label for="note">At frame {{ frame }}</label>
      <textarea
        id="note"
        ref="field"
        v-model="words"
        class="form-control form-control-sm"
        rows="2"
        maxlength="500"
        @keydown.enter.exact.prevent="keep"
        @keydown.esc="field?.blur()"
      />
      <div class="ways">
        <button class="btn btn-sm btn-outline-secondary" :disabled="!words.trim()">Keep it here</button>
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :aria-pressed="voice.recording.value"
          data-test="say"
          @click="say"
        >
          {{ voice.recording.value ? 'Stop and keep' : 'Say it' }} <kbd>V</kbd>
        </button>
        <span v-if="voice.recording.value" class="live" role="status">
          Recording. Step, play and draw: what you show is kept with what you say.
        </span>
      </div>
    </form>
    <p v-if="voice.trouble.value" class="notice" role="alert">{{ voice.trouble.value }}</p>
    <p v-for="one in held" :key="one.key" class="quiet" data-test="held">
      Recorded at frame {{ one.shown[0]![1] }} and not yet sent; it is kept in this browser.
      <button type="button" class="btn btn-sm btn-link p-0" @click="voice.keep(one)">Send it again</button>
      <button type="button" class="btn btn-sm btn-link p-0" @click="throwAway(one)">
        {{ leaving === one.key ? 'Throw it away for good' : 'Throw it away' }}
      </button>
    </p>
    <audio ref="player" hidden @ended="hush" />
    <ul>
      <li v-for="note in notes" :key="note.id" :class="{ here: note.frame === frame }">
        <button type="button" class="at" @click="emit('go', note.frame)">{{ note.frame }}</button>
        <span>
          {{ note.words }}
          <template v-if="note.seconds">
            <button type="button" class="btn btn-sm btn-link p-0" :data-hear="note.id" @click="hear(note)">
              {{ heard === note.id ? 'Hush' : `Hear ${note.seconds.toFixed(0)} s` }}
            </button>
            <FilmLink :address="`/api/clips/${clip}/drawn.mp4?voice=${note.id}`" says="as a clip" />
          </template>
        </span>
        <button type="button" class="btn btn-sm btn-link p-0" @click="takeBack(note.id)">Take back</button>
      </li>
    </ul>
    <p v-if="!notes.length" class="quiet">Nothing is noted yet. Notes go out with the review, at their moment.</p>
  </div>
</template>

<style scoped lang="scss">
.notes {
  padding: 0.6rem 0.75rem;
}
form {
  display: grid;
  gap: 0.3rem;
  justify-items: start;
  margin-bottom: 0.6rem;
  label {
    font-size: 0.84rem;
  }
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
}
.live {
  font-size: 0.84rem;
  color: var(--look);
}
:is(span, p) .btn-link {
  margin-right: 0.9rem;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 3.4rem 1fr auto;
  gap: 0.5rem;
  align-items: baseline;
  padding: 0.3rem 0;
  border-top: 1px solid var(--rule);
  &.here .at {
    background: var(--bs-body-color);
    color: var(--bs-body-bg);
  }
}
.at {
  background: var(--sunk);
  color: inherit;
  border: 1px solid var(--rule);
  border-radius: 3px;
  min-height: 26px;
}
</style>
