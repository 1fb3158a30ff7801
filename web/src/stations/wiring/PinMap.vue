<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useExplain } from '@/state/explain'
import { useInspection } from '@/state/inspection'
import { withUnit } from '@/state/units'
import { at } from '@/lib/sheet'
import { severityWord, term } from '@/lib/words'
import ActButton from '@/parts/ActButton.vue'
import RemoveThis from '@/parts/RemoveThis.vue'
import SheetField from '@/parts/SheetField.vue'

/** Two plugs that are to be joined, pin beside pin: what each side means there, and what would happen. */
type Side = 'a' | 'b'
interface Pin {
  pin?: string
  colour?: string
  function?: string | { value?: string }
  measured_v?: { value?: number | null }
}
const { view, add, locked } = useInspection()
const why = useExplain(ref('wire.pin_map'), 'pin-map')
const list = (s: Side) =>
  ((at(view.value?.sheet, `given.pin_map.${s}`) as Pin[] | undefined) ?? []).map((p, i) => ({ p, i }))
const word = (v: Pin['function']) => term((typeof v === 'object' ? v.value : v) ?? '')
const text = (v: unknown) =>
  typeof v === 'object' && v ? String((v as { value?: unknown }).value ?? '') : String(v ?? '')
const rows = computed(() => {
  const sides = { a: list('a'), b: list('b') }
  const pins = [...new Set([...sides.a, ...sides.b].map((x) => text(x.p.pin)))]
  const conflicts: Schemas['PinConflict'][] = why.value?.result?.conflicts ?? []
  return pins.map((pin) => ({
    pin,
    a: sides.a.find((x) => text(x.p.pin) === pin),
    b: sides.b.find((x) => text(x.p.pin) === pin),
    wrong: conflicts.filter((c) => c.pin === pin),
    same: why.value?.result?.matches.includes(pin) ?? false,
  }))
})
const open = ref<string | null>(null)
const next = ref('')
async function addPin() {
  const pin = next.value.trim() || String(rows.value.length + 1)
  next.value = ''
  if (rows.value.some((r) => r.pin === pin)) return void (open.value = pin)
  for (const s of ['a', 'b'] as const) await add(`given.pin_map.${s}`, { pin: { value: pin, source: 'seen' } })
  open.value = pin
}
const worst = (r: (typeof rows.value)[number]) =>
  (['stop', 'fix', 'note'] as const).find((d) => r.wrong.some((c) => c.danger === d))
</script>

<template>
  <div class="pins" data-test="pin-map">
    <p class="caution">
      {{
        $t('Pack out and unplugged before a plug is opened. Functions are measured pin by pin: do not trust colours.')
      }}
    </p>
    <div v-if="rows.length" class="scroll">
      <table>
        <thead>
          <tr>
            <th>{{ $t('pin') }}</th>
            <th>{{ $t('one plug') }}</th>
            <th>{{ $t('joined') }}</th>
            <th>{{ $t('the other') }}</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="r in rows" :key="r.pin">
            <tr :class="{ bad: worst(r) === 'stop' || worst(r) === 'fix' }" :data-pin="r.pin">
              <td>
                <button
                  type="button"
                  class="plain"
                  :aria-expanded="open === r.pin"
                  @click="open = open === r.pin ? null : r.pin"
                >
                  {{ r.pin }}
                </button>
              </td>
              <td v-for="s in ['a', 'x', 'b'] as const" :key="s">
                <template v-if="s === 'x'">
                  <svg viewBox="0 0 56 22" width="56" height="22" aria-hidden="true">
                    <path d="M0 11h18" class="wire" />
                    <path d="M38 11h18" class="wire" />
                    <path v-if="r.same" d="M18 5v12h20v-12z" class="home" />
                    <path v-else-if="worst(r)" d="M20 4l16 14M36 4l-16 14" class="cross" />
                    <path v-else d="M18 5v12M38 5v12" class="wire" />
                  </svg>
                  <span class="small joined">{{
                    r.same
                      ? $t('the same')
                      : worst(r)
                        ? severityWord[worst(r)!]
                        : r.a && r.b
                          ? $t('not known yet')
                          : $t('no partner')
                  }}</span>
                </template>
                <template v-else-if="r[s]">
                  {{ word(r[s]!.p.function) || $t('function not measured') }}
                  <span class="small"
                    >{{ text(r[s]!.p.colour) }}
                    {{ r[s]!.p.measured_v?.value != null ? withUnit(r[s]!.p.measured_v!.value!, 'V') : '' }}</span
                  >
                </template>
                <span v-else class="small">{{ $t('no such pin') }}</span>
              </td>
            </tr>
            <tr v-for="(c, i) in r.wrong" :key="`${r.pin}w${i}`" class="why">
              <td />
              <td colspan="3" :class="{ stop: c.danger === 'stop' }">
                {{
                  $t('{a} on {b}: {why}.', {
                    a: term(c.a),
                    b: term(c.b),
                    why: c.why,
                  })
                }}
                <b v-if="c.trap">{{ $t('The colours are the same: a trap.') }}</b>
              </td>
            </tr>
            <tr v-if="open === r.pin" class="edit">
              <td />
              <td colspan="3">
                <div class="both">
                  <div v-for="s in ['a', 'b'] as const" :key="s">
                    <h4>{{ s === 'a' ? $t('One plug') : $t('The other') }}</h4>
                    <template v-if="r[s]">
                      <SheetField :path="`given.pin_map.${s}.${r[s]!.i}.function`" :title="$t('function')" />
                      <SheetField :path="`given.pin_map.${s}.${r[s]!.i}.measured_v`" :title="$t('measured')" />
                      <SheetField :path="`given.pin_map.${s}.${r[s]!.i}.colour`" :title="$t('colour')" />
                      <RemoveThis
                        :list="`given.pin_map.${s}`"
                        :index="r[s]!.i"
                        :what="$t('pin {pin} of it', { pin: r.pin })"
                      />
                    </template>
                  </div>
                </div>
              </td>
            </tr>
          </template>
        </tbody>
      </table>
    </div>
    <p v-else class="small">{{ $t("No pin yet. Number the pins by the plug's face, seen from the mating side.") }}</p>
    <form v-if="!locked" class="new" @submit.prevent="addPin">
      <label class="field"
        ><span>{{ $t('pin') }}</span
        ><input v-model="next" :placeholder="String(rows.length + 1)" data-test="new-pin"
      /></label>
      <ActButton type="submit" data-test="add-pin">{{ $t('Add pin') }}</ActButton>
    </form>
    <SheetField path="given.pin_map.batt_v" />
  </div>
</template>

<style scoped>
.pins {
  background: var(--panel);
  color: var(--ink);
  padding: 10px;
}
td {
  vertical-align: middle;
}
.wire,
.cross,
.home {
  fill: none;
  stroke: var(--ink);
  stroke-width: 3;
}
.home {
  fill: var(--jade-pale);
  stroke: var(--jade);
}
.cross {
  stroke: var(--plum);
  stroke-width: 4;
}
.joined {
  display: block;
}
.both {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 12px;
}
h4 {
  margin: 6px 0;
}
.new {
  display: flex;
  gap: 10px;
  align-items: end;
  margin: 10px 0;
}
.new .field {
  flex: 0 1 120px;
}
</style>
