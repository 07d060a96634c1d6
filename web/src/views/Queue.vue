<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import UploadPanel from '@/components/UploadPanel.vue'
import type { Clip } from '@/api/client'
import { load, recent, title } from '@/format/quantity'
import { daysWaited, LATE_DAYS, useQueue, type Group, type Waiting } from '@/stores/queue'

const queue = useQueue()
const files = ref<File[]>([])
const over = ref(false)
const picker = ref<HTMLInputElement | null>(null)
let timer = 0

const PARTS: { name: string; of: Waiting[]; empty?: string }[] = [
  { name: 'Could not be analysed', of: ['failed'] },
  { name: 'Waiting for you', of: ['overdue', 'look'], empty: 'Nothing waits for you.' },
  { name: 'Being worked on', of: ['working'] },
  { name: 'Handed over', of: ['handed'] },
]
const STAGES: Record<string, string> = {
  waiting: 'Waiting its turn',
  tracking: 'Following the disc',
  looking: 'Looking at the lifter',
  measuring: 'Measuring',
  preparing: 'Preparing for stepping',
  ready: 'Ready',
}
const sorts = computed(() => new Map(queue.groups.map((group) => [group.waiting, group])))
const overdue = computed(() => new Set(sorts.value.get('overdue')?.clips.map((clip) => clip.id)))
const parts = computed(() =>
  PARTS.map((part) => {
    const groups = part.of.map((waiting) => sorts.value.get(waiting)).filter((group): group is Group => Boolean(group))
    return {
      ...part,
      count: groups.reduce((sum, group) => sum + group.count, 0),
      late: groups.find((group) => group.waiting === 'overdue')?.count ?? 0,
      clips: groups.flatMap((group) => group.clips),
      more: groups.find((group) => group.clips.length < group.count)?.waiting ?? null,
    }
  }).filter((part) => part.count || part.empty),
)

function keepFresh() {
  timer = window.setTimeout(
    async () => {
      await (queue.busy ? queue.look() : queue.refresh())
      keepFresh()
    },
    queue.busy ? 900 : 8000,
  )
}

onMounted(async () => {
  await queue.refresh()
  keepFresh()
})
onBeforeUnmount(() => window.clearTimeout(timer))

function take(list: FileList | null | undefined) {
  over.value = false
  if (list?.length) files.value = [...files.value, ...list]
}
function picked(event: Event) {
  const input = event.target as HTMLInputElement
  take(input.files)
  // So that the same file can be chosen again.
  input.value = ''
}

/** For how many days a clip has waited for the coach, once that is too long. */
const late = (clip: Clip) => (overdue.value.has(clip.id) ? daysWaited(clip) : 0)

const filmed = (clip: Clip) => (clip.filmed_on ? recent(clip.filmed_on) : '')
const outcome = (clip: Clip) => (clip.made === null ? '' : clip.made ? 'made' : 'missed')
</script>

<template>
  <main
    class="queue"
    @dragover.prevent="over = true"
    @dragleave.self="over = false"
    @drop.prevent="take($event.dataTransfer?.files)"
  >
    <div class="head">
      <h1>Queue</h1>
      <span class="quiet">Drop clips anywhere on this page, or</span>
      <BButton variant="primary" size="sm" @click="picker?.click()">Choose clips</BButton>
      <input ref="picker" type="file" accept="video/*,.mkv,.mts,.m2ts" multiple hidden @change="picked" />
    </div>
    <p v-if="queue.trouble" class="notice" role="alert">
      {{ queue.trouble }} <button class="btn btn-sm btn-outline-secondary" @click="queue.refresh()">Try again</button>
    </p>
    <UploadPanel v-if="files.length" :files="files" @done="files = []" />
    <p v-if="!queue.loaded && !queue.trouble" class="quiet">Looking for clips …</p>
    <template v-else-if="queue.loaded">
      <p v-if="!queue.clips.length" class="panel blank">
        No clips yet. Film a lift from the side, camera at hip height, discs and feet in the picture, and drop the file
        here.
        <template v-if="!queue.athletes.length">
          First, <RouterLink to="/athletes">say who your athletes are</RouterLink>.
        </template>
      </p>
      <section v-for="part in parts" v-else :key="part.name" :aria-label="part.name">
        <h2>
          {{ part.name }} <span class="quiet">{{ part.count }}</span>
          <span v-if="part.late" class="overdue">· {{ part.late }} overdue, for {{ LATE_DAYS }} days or longer</span>
        </h2>
        <p v-if="!part.count" class="quiet">{{ part.empty }}</p>
        <ul class="panel">
          <li v-for="clip in part.clips" :key="clip.id">
            <component
              :is="clip.measured ? 'RouterLink' : 'span'"
              :to="clip.measured ? { name: 'bench', params: { id: clip.id } } : undefined"
              class="item"
            >
              <span class="thumb"><img :src="`/api/clips/${clip.id}/poster.jpg`" alt="" loading="lazy" /></span>
              <span class="who">{{ clip.athlete_name }}</span>
              <span>{{ title(clip.lift) }}</span>
              <span class="num">{{ clip.load == null ? '' : load(clip.load, clip.load_unit ?? 'kg') }}</span>
              <span class="quiet">{{ outcome(clip) }}</span>
              <span class="quiet">{{ filmed(clip) }}</span>
              <span class="state">
                <template v-if="clip.job.state === 'failed'"
                  ><span class="sign fault" /> {{ clip.job.error_message }}</template
                >
                <template v-else-if="clip.job.state === 'done'"
                  ><span v-if="late(clip)"><span class="sign watch" /> waits {{ late(clip) }} days</span>
                  <span v-else class="quiet">{{ clip.reviewed ? 'with the athlete' : 'measured' }}</span></template
                >
                <span v-else class="working">
                  <span>{{ STAGES[clip.job.stage] }}</span>
                  <template v-if="clip.job.state === 'running'">
                    <BProgress :value="clip.job.progress * 100" :max="100" :aria-label="STAGES[clip.job.stage]" />
                    <span class="quiet num">{{ Math.round(clip.job.progress * 100) }} %</span>
                  </template>
                </span>
              </span>
            </component>
            <BButton
              v-if="clip.job.state === 'failed'"
              size="sm"
              variant="outline-secondary"
              @click="queue.retry(clip.id)"
            >
              Try again
            </BButton>
            <BButton
              v-else-if="clip.job.state !== 'done'"
              size="sm"
              variant="outline-secondary"
              :aria-label="`Stop analysing ${title(clip.lift)} of ${clip.athlete_name}`"
              @click="queue.stop(clip.id)"
            >
              Stop
            </BButton>
          </li>
        </ul>
        <button v-if="part.more" type="button" class="btn btn-sm btn-link" @click="queue.more(part.more)">
          Show more: {{ part.clips.length }} of {{ part.count }} shown
        </button>
      </section>
    </template>
    <div v-if="over" class="veil"><p>Let go to add the clips</p></div>
  </main>
</template>

<style scoped lang="scss">
.queue {
  flex: 1;
  width: 100%;
  max-width: 1120px;
  margin: 0 auto;
  padding: 1rem;
  position: relative;
}
.head {
  display: flex;
  align-items: center;
  gap: 0.7rem;
  margin-bottom: 1rem;
  h1 {
    margin: 0;
    margin-right: auto;
  }
}
h2 {
  margin: 1.1rem 0 0.4rem;
}
.overdue {
  margin-left: 0.3rem;
  font-size: 0.9rem;
  font-weight: 400;
  color: var(--look);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
ul:empty {
  display: none;
}
li {
  display: flex;
  align-items: center;
  > .btn {
    margin-right: 0.6rem;
  }
  & + li {
    border-top: 1px solid var(--rule);
  }
}
.item {
  flex: 1;
  display: grid;
  grid-template-columns: 96px minmax(7rem, 11rem) minmax(6rem, 10rem) 5rem 4rem 4.5rem minmax(13rem, 1fr);
  align-items: center;
  gap: 0.8rem;
  color: inherit;
  text-decoration: none;
  padding: 0.3rem 0.4rem;
}
a.item:hover {
  background: var(--sunk);
}
.thumb {
  width: 96px;
  height: 54px;
  background: var(--stage);
  overflow: hidden;
  img {
    width: 100%;
    height: 100%;
    object-fit: contain;
  }
}
.who {
  font-weight: 600;
}
.num {
  text-align: right;
}
.working {
  display: grid;
  grid-template-columns: 9.5rem 1fr 3rem;
  align-items: center;
  gap: 0.5rem;
}
.blank {
  padding: 1.2rem;
}
.veil {
  position: fixed;
  inset: 0;
  background: color-mix(in srgb, var(--panel) 88%, transparent);
  border: 3px dashed var(--trace);
  display: flex;
  align-items: center;
  justify-content: center;
  font-size: 1.3rem;
  pointer-events: none;
}
@media (max-width: 800px) {
  .item {
    grid-template-columns: 72px 1fr auto;
    row-gap: 0;
    .thumb {
      grid-row: span 3;
      width: 72px;
    }
    .state {
      grid-column: 2 / -1;
    }
  }
}
</style>
