<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import DiscsOnBar from './DiscsOnBar.vue'
import PointPicture from './PointPicture.vue'
import type { Handed } from '@/api/client'
import { day, load, title } from '@/format/quantity'
import { useOnePage } from './paper'

/** A review as the athlete reads it: what was good, the first thing to work on with its picture, the work. */
const props = defineProps<{
  review: Handed
  /** Where the picture of a point is, by its place among them. */
  pictures: (place: number) => string
  /** Where the picture at a moment is, by its frame. */
  moment: (frame: number) => string
  /** Where a spoken note is heard, and where it is seen with what was shown meanwhile. */
  voice: (note: number) => string
  film: (note: number) => string
}>()
useOnePage(useTemplateRef<HTMLElement>('sheet'))
const first = computed(() => props.review.points[0] ?? null)
const others = computed(() => props.review.points.slice(1))
const heading = computed(() => {
  const { lift, load: kilos, load_unit: unit, made } = props.review
  return [title(lift), kilos ? load(kilos, unit) : '', made === null ? '' : made ? 'made' : 'missed']
    .filter(Boolean)
    .join(', ')
})
const filmed = computed(() => (props.review.filmed_on ? day(props.review.filmed_on, { month: 'long' }) : ''))
</script>

<template>
  <article ref="sheet" class="handed">
    <header>
      <h1>{{ review.athlete }}</h1>
      <p>
        {{ heading }} <span v-if="filmed" class="quiet">on {{ filmed }}</span>
      </p>
    </header>
    <section v-if="review.good.length" class="good">
      <h2>What was good</h2>
      <ul>
        <li v-for="line in review.good" :key="line"><span class="sign fine" />{{ line }}</li>
      </ul>
    </section>
    <section v-if="first">
      <h2>First, work on this</h2>
      <PointPicture
        v-if="first.drawing"
        :drawing="first.drawing"
        :picture="pictures(0)"
        :says="first.says || first.name"
        explained
      />
      <h3><span class="sign fault" />{{ first.name }}</h3>
      <p v-if="first.says">{{ first.says }}</p>
      <p v-if="first.why" class="quiet">{{ first.why }}</p>
      <p v-if="first.cue" class="cue">{{ first.cue }}</p>
    </section>
    <section v-if="others.length">
      <h2>Then</h2>
      <div v-for="(point, index) in others" :key="point.fault" class="then">
        <h3><span class="sign fault" />{{ point.name }}</h3>
        <PointPicture
          v-if="point.drawing?.line"
          :drawing="point.drawing"
          :picture="pictures(index + 1)"
          :says="point.says || point.name"
        />
        <p v-if="point.says">{{ point.says }}</p>
      </div>
    </section>
    <section v-if="review.words.trim()">
      <h2>From your coach</h2>
      <p class="words">{{ review.words }}</p>
    </section>
    <section v-if="review.notes?.length">
      <h2>At these moments of the clip</h2>
      <div v-for="(note, index) in review.notes" :key="index" :class="['moment', { filmed: note.film }]">
        <p>
          <b>{{ note.time_s.toFixed(1) }} s</b> {{ note.words }}
        </p>
        <video
          v-if="note.voice && note.film"
          controls
          playsinline
          preload="none"
          :src="film(note.voice)"
          :poster="note.frame === undefined ? undefined : moment(note.frame)"
          aria-label="Your coach shows and says"
        />
        <audio v-else-if="note.voice" controls preload="none" :src="voice(note.voice)" aria-label="Your coach says" />
        <PointPicture
          v-if="note.drawing && note.frame !== undefined"
          :drawing="note.drawing"
          :picture="moment(note.frame)"
          :says="note.words || `the clip at ${note.time_s.toFixed(1)} s`"
        />
      </div>
    </section>
    <section v-if="review.tasks.length">
      <h2>Your work</h2>
      <div v-for="(task, index) in review.tasks" :key="index" class="task">
        <h3>{{ task.name }}</h3>
        <p class="dose">
          {{ task.sets }} sets of {{ task.reps
          }}<template v-if="task.total !== null">
            at <b>{{ load(task.total, task.unit) }}</b>
          </template>
          <template v-else-if="task.load">, {{ task.load }}</template>
          <span class="quiet"
            >, {{ task.per_week === 1 ? 'once' : `${task.per_week} times` }} a week for {{ task.weeks }} weeks</span
          >
        </p>
        <DiscsOnBar v-if="task.total !== null" :per-side="task.per_side" :unit="task.unit" />
        <p v-else-if="!task.load" class="notice">
          No best is on record to work the load out from. Ask your coach; begin with the empty bar.
        </p>
        <p>{{ task.how }}</p>
        <p class="cue">{{ task.cue }}</p>
        <p v-if="task.note">{{ task.note }}</p>
        <ul v-if="task.cautions.length || task.safeties" class="cautions">
          <li v-for="caution in task.cautions" :key="caution">{{ caution }}</li>
          <li v-if="task.safeties">{{ task.safeties }}</li>
        </ul>
        <p class="quiet">
          Rest {{ Math.round(task.rest_s / 30) / 2 }} min between sets. Film it from the
          {{ task.film === '45' ? 'front corner' : task.film }}.
        </p>
      </div>
    </section>
    <section>
      <h2>Film next</h2>
      <p>{{ review.film_next }}</p>
    </section>
    <footer class="quiet">
      Stop if something hurts: pain of 4 out of 10 or more, sharp pain, numbness or a joint that gives way is for a
      licensed clinician, not for a drill. This supports your coach's judgement; it is not medical advice.
    </footer>
  </article>
</template>

<style scoped lang="scss">
.handed {
  max-width: 34em;
  margin: 0 auto;
  padding: 1em;
  font-size: 1em;
}
header {
  border-bottom: 2px solid currentColor;
  margin-bottom: 0.8em;
  h1 {
    margin: 0;
  }
  p {
    margin: 0.1em 0 0.4em;
  }
}
section {
  margin-bottom: 1.2em;
}
h2 {
  font-size: 0.86em;
  color: var(--quiet);
  font-weight: 600;
  margin: 0 0 0.35em;
}
h3 {
  font-size: 1.06em;
  display: flex;
  align-items: center;
  gap: 0.45em;
  margin: 0.5em 0 0.2em;
}
p {
  margin: 0 0 0.35em;
}
.good ul {
  list-style: none;
  padding: 0;
  margin: 0;
  li {
    display: flex;
    gap: 0.5em;
    margin-bottom: 0.25em;
    .sign {
      margin-top: 0.36em;
    }
  }
}
.moment {
  margin-bottom: 0.35em;
  audio,
  video {
    display: block;
    width: 100%;
    margin-bottom: 0.25em;
  }
  // What can be seen moving needs its picture on paper alone.
  &.filmed figure {
    display: none;
  }
}
.cue {
  font-weight: 640;
  font-size: 1.1em;
}
.words {
  white-space: pre-line;
}
.task {
  border-left: 3px solid var(--rule);
  padding-left: 0.8em;
  margin-bottom: 1em;
}
.cautions {
  border-left: 4px solid var(--look);
  padding: 0.1em 0 0.1em 1.5em;
  margin: 0.4em 0;
}
// On paper: two columns, as small as one page needs, see `paper.ts`.
.paper {
  --small: 1;
  max-width: none;
  margin: 0;
  padding: 0;
  font-size: calc(10.5pt * var(--small));
  columns: 2;
  column-gap: 7mm;
  print-color-adjust: exact;
  header,
  footer {
    column-span: all;
  }
  h1 {
    font-size: 1.7em;
  }
  h2,
  h3 {
    break-after: avoid;
  }
  footer {
    margin-top: 0.8em;
  }
  .then,
  .task,
  .moment,
  li {
    break-inside: avoid;
  }
  audio,
  video {
    display: none;
  }
  .filmed figure {
    display: block;
  }
  :deep(figure svg) {
    background: none;
    max-height: calc(62mm * var(--small));
  }
}
footer {
  font-size: 0.82em;
  border-top: 1px solid var(--rule);
  padding-top: 0.6em;
}
</style>
