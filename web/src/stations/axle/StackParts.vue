<script setup lang="ts">
import { term } from '@/lib/words'
import ActButton from '@/parts/ActButton.vue'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { plain } from '@/lib/sheet'
import { bare } from '@/state/units'
import { useWorkshop } from '@/state/workshop'
import RemoveThis from '@/parts/RemoveThis.vue'
import SheetField from '@/parts/SheetField.vue'
import { describedBy, sideRow, thicknessOf, word, type Side } from './stack'
import { fillFromKit } from './kitFill'
import { useStackDrag } from './stackDrag'

/**
 * The parts of each side, in the order of the drawing. A part is dragged to its
 * place, or moved by the arrow keys; new ones come from the tray.
 */
const props = defineProps<{ axle: Schemas['Axle']; at: string }>()
const { id, view, set, settled, locked } = useInspection()
const { fieldAt } = useWorkshop()
type Part = Schemas['Part']
const tray: Part['kind'][] = [
  'spacer',
  'plain_washer',
  'tab_washer',
  'lock_washer',
  'torque_arm',
  'rotor_spacer',
  'other',
]
const parts = computed<Part[]>(() => props.axle.parts ?? [])
const picked = ref<number | null>(null)
const rows = computed(() => ({ left: sideRow(parts.value, 'left'), right: sideRow(parts.value, 'right') }))

const box = useTemplateRef('box')
/** Which part is in hand once the list has come back as it was told: it keeps its focus, wherever it is moved. */
let coming: number | null = null
watch(parts, async () => {
  if (coming === null) return
  picked.value = coming
  coming = null
  await nextTick()
  box.value?.querySelector<HTMLElement>(`[data-row="${picked.value}"] button`)?.focus()
})
const list = `${props.at}parts`
async function save(parts: Part[], inHand: number | null = null) {
  coming = inHand
  if (await set(list, parts.map(plain))) await describe(parts)
  else coming = null
}
/** A tab washer that is put into the stack was seen fitted: what the kit's sheet says of it is taken from there. */
async function describe(parts: Part[]) {
  const fitted = (['left', 'right'] as const).filter(
    (side) => !props.axle[side].tab_washer && parts.some((p) => p.side === side && p.kind === 'tab_washer'),
  )
  for (const side of fitted) await set(`${props.at}${side}.tab_washer`, {})
  const drive = Number(props.at.split('.')[1])
  if (fitted.length && (await settled(list))) await fillFromKit(id, drive, view.value?.sheet.drives?.[drive]?.kit)
}
const empty = { value: null, u: null }
const fresh = (kind: Part['kind'], side: Part['side'], place: Part['place']): Part => ({
  side,
  place,
  kind,
  tol_mm: Number(fieldAt(`${props.at}parts.0.tol_mm`)?.default ?? 0),
  thickness_mm: empty,
})

/**
 * Rebuilds the list from the rows as they lie: each row is read from the motor
 * outwards, and what lies before the dropout is inside it.
 */
function rebuild(row: Record<Side, (Part | 'dropout')[]>, inHand: number | null = null) {
  const out: Part[] = []
  for (const side of ['left', 'right'] as const) {
    let place: Part['place'] = 'inner'
    for (const p of row[side]) {
      if (p === 'dropout') place = 'outer'
      else out.push({ ...p, side, place })
    }
  }
  void save(out, inHand)
}
const copy = () => ({
  left: rows.value.left.map((x) => (x === 'dropout' ? x : parts.value[x]!)),
  right: rows.value.right.map((x) => (x === 'dropout' ? x : parts.value[x]!)),
})

/** Moves a part along its side, over the dropout too; outwards is +1. */
async function move(i: number, by: number) {
  if (!(await settled(list))) return
  const side = parts.value[i]!.side as Side
  const row = copy()
  const k = rows.value[side].indexOf(i)
  const to = k + by
  if (to < 0 || to >= row[side].length) return
  const [p] = row[side].splice(k, 1)
  row[side].splice(to, 0, p!)
  const at = row[side].filter((x) => x !== 'dropout').indexOf(p as Part)
  rebuild(row, side === 'left' ? at : row.left.length - 1 + at)
}
function onKey(e: KeyboardEvent, i: number) {
  const side = parts.value[i]!.side
  const out = side === 'left' ? 'ArrowLeft' : 'ArrowRight'
  const inn = side === 'left' ? 'ArrowRight' : 'ArrowLeft'
  if (e.key === out) void move(i, 1)
  else if (e.key === inn) void move(i, -1)
  else if (e.key === 'Delete') {
    picked.value = i
    void nextTick(() => removal.value?.ask())
  } else return
  e.preventDefault()
}
const removal = useTemplateRef('removal')
/** A new part comes outermost and is the one in hand. */
async function add(kind: Part['kind'], side: Side) {
  if (!(await settled(list))) return
  const row = copy()
  row[side].push(fresh(kind, side, 'outer'))
  rebuild(row, side === 'left' ? row.left.length - 2 : row.left.length + row.right.length - 3)
}

useStackDrag(box, locked, async (part, from, to, n) => {
  if (!(await settled(list))) return
  const row = copy()
  const inRow = (side: Side, k: number) => (side === 'left' ? row[side].length - 1 - k : k)
  const p = from ? row[from].splice(inRow(from, part), 1)[0]! : fresh(tray[part]!, to, 'outer')
  if (p === 'dropout' && from !== to) return
  row[to].splice(to === 'left' ? row[to].length - n : n, 0, p)
  rebuild(row)
})
</script>

<template>
  <div ref="box" class="stack-parts">
    <div class="rows-across">
      <div v-for="side in ['left', 'right'] as const" :key="side">
        <h3>{{ term(side) }}{{ side === 'left' ? $t(': nut, then inwards') : $t(': from the motor, then nut') }}</h3>
        <ol :data-side="side" :class="side" :aria-label="$t('Parts on the {side}', { side: term(side) })">
          <li
            v-for="x in side === 'left' ? [...rows[side]].reverse() : rows[side]"
            :key="String(x)"
            :data-row="x"
            :class="{ dropout: x === 'dropout', on: x === picked }"
          >
            <span v-if="x === 'dropout'">{{ $t('dropout') }}</span>
            <button
              v-else
              type="button"
              :disabled="locked"
              :aria-pressed="x === picked"
              :data-part="parts[x]!.kind"
              aria-describedby="stack-keys"
              @click="picked = picked === x ? null : x"
              @keydown="onKey($event, x)"
            >
              {{ word(parts[x]!.kind) }}
              <span class="num">{{ bare(thicknessOf(axle, parts[x]!)?.value, 'mm', 2) }}</span>
            </button>
          </li>
        </ol>
      </div>
    </div>
    <p id="stack-keys" class="small">
      {{ $t('Drag a part to its place; or arrow keys move it, Delete takes it off.') }}
    </p>
    <div v-if="picked !== null && parts[picked]" class="fields one">
      <SheetField :path="`${at}parts.${picked}.kind`" :title="$t('part')" />
      <p v-if="describedBy(axle, parts[picked]!)" class="small">
        {{ $t('As thick as it is described with its side.') }}
      </p>
      <SheetField v-else :path="`${at}parts.${picked}.thickness_mm`" />
      <SheetField :path="`${at}parts.${picked}.tol_mm`" :title="$t('tolerance')" />
      <span class="acts">
        <ActButton variant="text" :disabled="locked" data-test="inwards" @click="move(picked, -1)">{{
          $t('Inwards')
        }}</ActButton>
        <ActButton variant="text" :disabled="locked" @click="move(picked, 1)">{{ $t('Outwards') }}</ActButton>
        <RemoveThis
          ref="removal"
          :list="`${at}parts`"
          :index="picked"
          :what="$t('the {kind}, {parts}', { kind: word(parts[picked]!.kind), parts: term(parts[picked]!.side) })"
          test="remove-part"
          @removed="picked = null"
        />
      </span>
    </div>
    <template v-if="!locked">
      <h3>{{ $t('Parts tray') }}</h3>
      <ul data-tray class="tray" :aria-label="$t('Parts tray')">
        <li v-for="k in tray" :key="k">
          <span class="grip">{{ word(k) }}</span>
          <button
            type="button"
            :aria-label="$t('{part} to the left', { part: word(k) })"
            :data-test="`tray-${k}-left`"
            @click="add(k, 'left')"
          >
            L
          </button>
          <button
            type="button"
            :aria-label="$t('{part} to the right', { part: word(k) })"
            :data-test="`tray-${k}-right`"
            @click="add(k, 'right')"
          >
            R
          </button>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.stack-parts {
  display: grid;
  gap: 8px;
}
.rows-across {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(300px, 100%), 1fr));
  gap: 8px 22px;
}
ol,
ul {
  list-style: none;
  margin: 4px 0;
  padding: 4px;
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  min-height: 52px;
  border: 1px dashed var(--line);
}
ol.left {
  justify-content: flex-end;
}
li {
  display: flex;
}
li.dropout span {
  min-height: 44px;
  padding: 0 10px;
  display: flex;
  align-items: center;
  background: var(--frame);
  color: var(--on-dark);
}
ol button {
  min-height: 44px;
  padding: 2px 10px;
  border: 1px solid var(--ink);
  border-radius: 3px;
  background: var(--steel-pale);
  color: var(--ink);
  font: inherit;
  font-size: 14px;
  cursor: grab;
}
li.on button {
  outline: 3px solid var(--copper);
}
.tray {
  gap: 8px 14px;
  border-style: solid;
}
.tray li {
  align-items: center;
  gap: 2px;
  cursor: grab;
}
.grip {
  padding: 0 4px;
  font-size: 14px;
}
.tray button {
  min-width: 44px;
  min-height: 44px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--field);
  color: var(--ink);
  font: inherit;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
}
</style>
