<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import type { Bench, Catalogue, Finding, Lift } from '@/api/client'
import { title } from '@/format/quantity'
import Amount from './Amount.vue'
import Limits from './Limits.vue'
import OwnFault from './OwnFault.vue'
import Wording from './Wording.vue'
import { labelIn, LEVELS } from './verdicts'

/** What was found, first cause first; the coach confirms, dismisses, adds. */
const props = defineProps<{
  lift: Lift
  verdicts: Map<string, { fault: string; decision: string; frame?: number | null; note?: string }>
  catalogue: Catalogue | null
  limits: Bench['limits']
  /** Faults whose absence deserves to be said first. */
  good: string[]
  agreement: Bench['agreement']
  /** Whether the coach said the lift was made; null where nothing was said. */
  made: boolean | null
  frame: number
  saving: boolean
}>()
const emit = defineEmits<{
  limit: [fault: string, measure: string, limits: { watch: number; fault_at: number; everyone: boolean } | null]
  show: [fault: string, frame: number]
  decide: [fault: string, decision: 'confirmed' | 'dismissed' | 'added', frame: number | null]
  takeBack: [fault: string]
  made: [made: boolean]
  /** The catalogue has changed: a fault of the coach's own, or their own words for one. */
  reworded: [catalogue: Catalogue]
}>()

const PUT_FORWARD = 3
const own = ref('')
const adding = ref(false)
/** Whether a fault of the coach's own is being written. */
const writing = ref(false)
/** Of which fault the words are being changed. */
const wording = ref('')

const limitOf = (fault: string, measure: string) =>
  props.limits.find((one) => one.fault === fault && one.measure === measure) ?? null
const decided = (finding: Finding) => props.verdicts.get(finding.fault)?.decision
const open = computed(() => props.lift.findings.filter((f) => ['fault', 'watch', 'seen'].includes(f.level)))
// Nobody can act on more at once: three are put forward, and whatever the coach has decided on; the others wait below.
const forward = computed(() => open.value.filter((finding, place) => place < PUT_FORWARD || decided(finding)))
const leading = computed(() =>
  open.value.find((finding) => finding.root && !finding.separate && decided(finding) !== 'dismissed'),
)
/** What a finding follows from and nobody has decided on yet: asked about once for a lift. */
const causeOf = (finding: Finding) =>
  open.value.find((other) => other.root && other.explains.includes(finding.fault) && !decided(other)) ?? null
const asking = ref('')
const asked = ref(false)
function confirm(finding: Finding) {
  if (causeOf(finding) && !asked.value) {
    asking.value = finding.fault
    asked.value = true
  } else emit('decide', finding.fault, 'confirmed', null)
}
function answer(finding: Finding, both: boolean) {
  asking.value = ''
  const cause = both ? causeOf(finding) : null
  emit('decide', finding.fault, 'confirmed', null)
  if (cause) emit('decide', cause.fault, 'confirmed', null)
}
const waiting = computed(() => open.value.filter((finding) => !forward.value.includes(finding)))
const good = computed(() =>
  props.good.flatMap((fault) => props.lift.findings.filter((one) => one.fault === fault && one.level === 'fine')),
)
/** A rule that the coach keeps overruling: its limits may not be theirs. */
const OFTEN = 5
function overruled(finding: Finding): string {
  const counted = props.agreement.find((one) => one.fault === finding.fault)
  if (!counted) return ''
  const times = counted.confirmed + counted.dismissed
  return counted.dismissed >= OFTEN && counted.dismissed > times / 2
    ? `You rejected this ${counted.dismissed} of ${times} times. Its limits above can be changed.`
    : ''
}
const MISSES: Record<string, string> = {
  forward: 'a miss in front',
  behind: 'a miss behind',
  short: 'a miss: nobody got under the bar',
}
/** What the bar's way shows of the outcome, where the coach has said nothing or something else. */
const outcome = computed(() => {
  const seen = props.lift.outcome
  if (!seen || seen.made === props.made) return ''
  return seen.made ? 'made' : (MISSES[seen.how ?? ''] ?? 'a miss')
})
/** Why referees may refuse a lift that was brought up. */
const refusable = computed(() => {
  const missed = props.made === false || props.lift.outcome?.made === false
  const faults = new Set(props.catalogue?.faults.filter((fault) => fault.refusable).map((fault) => fault.id))
  const there = open.value.filter((finding) => faults.has(finding.fault) && decided(finding) !== 'dismissed')
  return missed ? '' : there.map((finding) => nameOf(finding.fault).toLowerCase()).join(', ')
})
const rest = computed(() => props.lift.findings.filter((f) => !['fault', 'watch', 'seen'].includes(f.level)))
const nameOf = (fault: string) => props.catalogue?.faults.find((f) => f.id === fault)?.name ?? title(fault)
const addable = computed(() => {
  const there = new Set(open.value.map((f) => f.fault))
  const all = (props.catalogue?.faults ?? []).filter(
    (fault) =>
      !there.has(fault.id) &&
      !(fault.measured && decidedFine(fault.id)) &&
      !fault.put_away &&
      // A squat has no start from the floor to be at fault.
      (!fault.kinds.length || fault.kinds.includes(props.lift.kind)),
  )
  const phases = [...new Set(all.map((fault) => fault.phase))]
  return phases.map((phase) => ({ phase, faults: all.filter((fault) => fault.phase === phase) }))
})
const decidedFine = (fault: string) => props.verdicts.get(fault)?.decision === 'added'
/** The point without what the heading says already. */
const pointOf = ({ says, name = '' }: Finding) =>
  says?.startsWith(`${name} · `) ? says.slice(name.length + 3) : (says ?? '')
const frameOf = (finding: Finding) => props.verdicts.get(finding.fault)?.frame ?? finding.evidence[0]?.frame ?? null
const chanceOf = (finding: Finding) => (finding.level === 'watch' ? finding.watch_probability : finding.probability)
const sure = (finding: Finding) => {
  const chance = chanceOf(finding)
  return chance == null ? '' : chance >= 0.95 ? 'sure' : 'likely'
}
const percent = (finding: Finding) => `${Math.round(100 * (chanceOf(finding) ?? 0))} % sure`
/** Checks that this film does not allow, and why. */
const unable = computed(() => props.lift.verdict?.why ?? [])
const labelOf = (measure: string) => labelIn(props.catalogue, measure)

const ownField = ref<HTMLInputElement | null>(null)
const ownId = computed(() => {
  const named = own.value.trim().toLowerCase()
  return addable.value.flatMap(({ faults }) => faults).find((fault) => fault.name.toLowerCase() === named)?.id ?? ''
})
/** Ready to take what the coach sees at this frame. */
async function startAdding() {
  adding.value = true
  await nextTick()
  ownField.value?.focus()
}
function add() {
  if (!ownId.value) return
  emit('decide', ownId.value, 'added', props.frame)
  leave()
}
function leave() {
  own.value = ''
  adding.value = false
  writing.value = false
}
/** A fault of the coach's own was written: it stands in the catalogue, and on this lift at this frame. */
function written(catalogue: Catalogue, fault: string) {
  emit('reworded', catalogue)
  emit('decide', fault, 'added', props.frame)
  leave()
}
defineExpose({ startAdding })
</script>

<template>
  <div class="findings">
    <p v-if="outcome" class="clear outcome" data-test="outcome">
      <span>The bar's path looks like {{ outcome === 'made' ? 'a lift that was made' : outcome }}.</span>
      <button type="button" class="btn btn-sm btn-outline-secondary" @click="emit('made', lift.outcome!.made)">
        Say it was {{ lift.outcome!.made ? 'made' : 'missed' }}
      </button>
    </p>
    <p v-if="refusable" class="clear" data-test="refusable">
      Referees may refuse this lift: {{ refusable }}. This is an aid; rules and referees decide.
    </p>
    <p v-if="lift.story && lift.story.faults.length > 1" class="story" data-test="story">{{ lift.story.says }}</p>
    <p class="quiet working" role="status" data-test="working">{{ saving ? 'Reading the chain again …' : '' }}</p>
    <p v-if="!leading && lift.verdict" class="clear" data-test="headline">
      <span :class="['sign', unable.length ? 'cannot_tell' : 'fine']" /> {{ lift.verdict.headline }}
    </p>
    <details v-if="unable.length" class="unable" data-test="unable">
      <summary>
        {{ lift.verdict!.not_possible }} of {{ lift.verdict!.checks }} checks not possible from this film
      </summary>
      <ul class="rest">
        <li v-for="one in unable" :key="one.reason">{{ title(one.reason) }}: {{ one.checks }}</li>
      </ul>
    </details>
    <p v-for="finding in good" :key="finding.fault" class="clear good">
      <span class="sign fine" /> <span><b>Good:</b> {{ finding.says }}</span>
    </p>
    <article
      v-for="finding in forward"
      :key="finding.fault"
      :class="['finding', decided(finding)]"
      :data-fault="finding.fault"
    >
      <header>
        <span :class="['sign', finding.level]" />
        <h3>{{ finding.name }}</h3>
        <span v-if="finding === leading" class="first">fix this first</span>
        <span v-else-if="finding.separate && decided(finding) !== 'dismissed'" class="quiet">separate issue</span>
        <span v-else-if="finding.link" class="quiet">link in the chain</span>
        <span class="quiet level" :title="sure(finding) ? percent(finding) : ''"
          >{{ LEVELS[finding.level] }}<template v-if="sure(finding)">, {{ sure(finding) }}</template></span
        >
      </header>
      <p v-if="pointOf(finding)">{{ pointOf(finding) }}</p>
      <ul v-if="finding.evidence.length" class="evidence">
        <li v-for="piece in finding.evidence" :key="piece.measure">
          {{ labelOf(piece.measure) }}
          <b v-if="piece.value != null"><Amount :value="piece.value" :unit="piece.unit ?? ''" :sd="piece.sd" /></b>
          <Limits
            :piece="piece"
            :own="limitOf(finding.fault, piece.measure)"
            :saving="saving"
            @set="(limits) => emit('limit', finding.fault, piece.measure, limits)"
            @take-back="emit('limit', finding.fault, piece.measure, null)"
          />
          <span v-if="lift.measures[piece.measure]?.note" class="quiet"
            >; {{ lift.measures[piece.measure]!.note }}</span
          >
        </li>
      </ul>
      <p v-for="school in finding.schools" :key="school.question" class="quiet chain">
        By your answer to “{{ school.asks }}”: {{ school.says.toLowerCase() }}
      </p>
      <p v-if="overruled(finding)" class="quiet chain" data-test="overruled">{{ overruled(finding) }}</p>
      <p v-if="finding.explains.length" class="quiet chain">
        Leads to: {{ finding.explains.map(nameOf).join(', ').toLowerCase() }}
      </p>
      <details class="words">
        <summary>
          Why it matters, and what {{ decided(finding) ? 'the athlete reads' : 'the athlete would read' }}
        </summary>
        <p class="quiet">{{ finding.why }}</p>
        <p>
          “{{ finding.athlete }}” <b>{{ finding.cue }}</b>
        </p>
        <button
          v-if="wording !== finding.fault"
          type="button"
          class="btn btn-sm btn-link p-0"
          @click="wording = finding.fault"
        >
          Say it in your own words
        </button>
        <Wording
          v-else
          :fault="catalogue?.faults.find((one) => one.id === finding.fault) ?? null"
          @kept="(fresh) => (emit('reworded', fresh), (wording = ''))"
          @leave="wording = ''"
        />
      </details>
      <p v-if="asking === finding.fault && causeOf(finding)" class="notice ask" role="alertdialog" data-test="cause">
        This follows from “{{ nameOf(causeOf(finding)!.fault).toLowerCase() }}”. Confirm that too?
        <button type="button" class="btn btn-sm btn-primary" @click="answer(finding, true)">Confirm both</button>
        <button type="button" class="btn btn-sm btn-outline-secondary" @click="answer(finding, false)">
          Only this one
        </button>
      </p>
      <footer>
        <button
          v-if="frameOf(finding) !== null"
          type="button"
          class="btn btn-sm btn-outline-secondary"
          data-test="show"
          @click="emit('show', finding.fault, frameOf(finding)!)"
        >
          Show at frame {{ frameOf(finding) }}
        </button>
        <template v-if="decided(finding)">
          <span class="verdict">{{
            decided(finding) === 'dismissed' ? 'rejected by you' : `${decided(finding)} by you`
          }}</span>
          <button type="button" class="btn btn-sm btn-link" :disabled="saving" @click="emit('takeBack', finding.fault)">
            Take back
          </button>
        </template>
        <template v-else>
          <button type="button" class="btn btn-sm btn-primary" :disabled="saving" @click="confirm(finding)">
            Confirm
          </button>
          <button
            type="button"
            class="btn btn-sm btn-outline-secondary"
            :disabled="saving"
            @click="emit('decide', finding.fault, 'dismissed', null)"
          >
            Reject
          </button>
        </template>
      </footer>
    </article>

    <div class="own">
      <button
        v-if="!adding"
        type="button"
        class="btn btn-sm btn-outline-secondary"
        data-test="add-own"
        @click="startAdding"
      >
        Add what you see at frame {{ frame }} <kbd>F</kbd>
      </button>
      <form v-else @submit.prevent="add" @keydown.esc.stop="leave">
        <label for="own">Seen at frame {{ frame }}: type a few letters</label>
        <div class="pick">
          <input
            id="own"
            ref="ownField"
            v-model="own"
            list="faults-to-add"
            autocomplete="off"
            class="form-control form-control-sm"
          />
          <datalist id="faults-to-add">
            <template v-for="group in addable" :key="group.phase">
              <option v-for="fault in group.faults" :key="fault.id" :value="fault.name">
                {{ title(group.phase) }}
              </option>
            </template>
          </datalist>
          <button class="btn btn-sm btn-primary" :disabled="!ownId || saving">Add</button>
          <button type="button" class="btn btn-sm btn-outline-secondary" @click="leave">Leave</button>
        </div>
        <button type="button" class="btn btn-sm btn-link p-0" data-test="write-own" @click="writing = true">
          It is not in the list: write a fault of your own
        </button>
      </form>
      <OwnFault
        v-if="writing && catalogue"
        :catalogue="catalogue"
        :kind="lift.kind"
        :name="own"
        @kept="written"
        @leave="writing = false"
      />
    </div>

    <details v-if="waiting.length" data-test="waiting">
      <summary>{{ waiting.length }} more that can wait</summary>
      <ul class="rest">
        <li v-for="finding in waiting" :key="finding.fault">
          <span :class="['sign', finding.level]" /> <b>{{ finding.name }}:</b> {{ LEVELS[finding.level] }}.
          {{ finding.says }}
          <button
            v-if="frameOf(finding) !== null"
            type="button"
            class="btn btn-sm btn-link p-0"
            @click="emit('show', finding.fault, frameOf(finding)!)"
          >
            Frame {{ frameOf(finding) }}
          </button>
          <button
            type="button"
            class="btn btn-sm btn-link p-0"
            :disabled="saving"
            @click="emit('decide', finding.fault, 'confirmed', null)"
          >
            Confirm
          </button>
          <button
            type="button"
            class="btn btn-sm btn-link p-0"
            :disabled="saving"
            @click="emit('decide', finding.fault, 'dismissed', null)"
          >
            Reject
          </button>
        </li>
      </ul>
    </details>

    <details v-if="rest.length">
      <summary>Also looked at ({{ rest.length }})</summary>
      <ul class="rest">
        <li v-for="finding in rest" :key="finding.fault">
          <span :class="['sign', finding.level]" /> <b>{{ finding.name }}:</b> {{ LEVELS[finding.level] }}.
          {{ finding.says }}
          <span v-if="decided(finding) === 'dismissed'" class="quiet"
            >Rejected by you.
            <button class="btn btn-sm btn-link p-0" @click="emit('takeBack', finding.fault)">Take back</button></span
          >
        </li>
      </ul>
    </details>
  </div>
</template>

<style scoped lang="scss">
.findings {
  padding: 0 0.75rem 0.6rem;
}
.clear {
  display: flex;
  align-items: center;
  gap: 0.45rem;
  margin: 0.3rem 0;
}
.good {
  align-items: baseline;
}
.working {
  float: right;
  margin: 0.3rem 0 0;
  font-size: 0.8rem;
}
.unable {
  border-top: 0;
  padding-top: 0;
}
.words {
  border-top: 0;
  padding-top: 0.1rem;
}
.ask .btn {
  margin-left: 0.4rem;
}
.story {
  margin: 0.4rem 0 0.2rem;
  padding: 0.35rem 0.5rem;
  background: var(--sunk);
  font-weight: 560;
}
.outcome {
  flex-wrap: wrap;
}
.rest .btn-link {
  margin-left: 0.5rem;
}
.finding {
  & + & {
    border-top: 1px solid var(--rule);
  }
  padding: 0.5rem 0;
  p {
    margin: 0.1rem 0 0.15rem;
  }
  &.dismissed {
    h3,
    p,
    .evidence {
      text-decoration: line-through;
      text-decoration-color: var(--quiet);
      color: var(--quiet);
    }
  }
}
header {
  display: flex;
  align-items: center;
  gap: 0.45rem;
  h3 {
    margin: 0;
  }
  .quiet {
    font-size: 0.8rem;
    white-space: nowrap;
  }
  .level {
    margin-left: auto;
  }
}
.first {
  font-size: 0.74rem;
  font-weight: 600;
  color: var(--look);
  border: 1px solid currentColor;
  padding: 0 0.3rem;
  white-space: nowrap;
}
.evidence {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 0.86rem;
}
.chain {
  font-size: 0.86rem;
}
footer {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  margin-top: 0.35rem;
}
.verdict {
  font-size: 0.86rem;
  font-weight: 600;
  margin-left: 0.3rem;
}
.own {
  border-top: 1px solid var(--rule);
  padding: 0.5rem 0;
  label {
    font-size: 0.82rem;
  }
}
.pick {
  display: flex;
  gap: 0.4rem;
}
details {
  border-top: 1px solid var(--rule);
  padding-top: 0.4rem;
  font-size: 0.88rem;
}
.rest {
  list-style: none;
  padding: 0.3rem 0 0;
  margin: 0;
  li {
    margin-bottom: 0.25rem;
  }
}
</style>
