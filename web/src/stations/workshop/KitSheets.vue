<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, faultLine, faults, sendFile, take, type Schemas } from '@/api/client'
import { may } from '@/state/session'
import { withUnit } from '@/state/units'

/** The makers' figures: kit sheets, brought in and saved as YAML. */
const client = useQueryClient()
const { data: kits } = useQuery({ queryKey: ['kits'], queryFn: () => take(api.GET('/api/kits')) })
const open = ref<string | null>(null)
const said = ref('')
const wrong = ref<string[]>([])
async function bringIn(e: Event) {
  const input = e.target as HTMLInputElement
  const f = input.files?.[0]
  input.value = ''
  if (!f) return
  said.value = ''
  wrong.value = []
  try {
    const k = await sendFile<Schemas['KitSheet']>('/api/kits', f, 'application/yaml')
    said.value = $t('{name} imported.', { name: k.kit.name })
    await client.invalidateQueries({ queryKey: ['kits'] })
  } catch (x) {
    said.value = $t('{name} was not imported.', { name: f.name })
    wrong.value = faults(x).map(faultLine)
  }
}
/** Another one than who brought a sheet in reads it against the maker's, and stands by it. */
async function vouch(name: string) {
  wrong.value = []
  try {
    await take(api.POST('/api/kits/{name}/vouch', { params: { path: { name } } }))
    said.value = $t('You stand by {name}.', { name })
    await client.invalidateQueries({ queryKey: ['kits'] })
  } catch (x) {
    said.value = $t('{name} stays as it is.', { name })
    wrong.value = faults(x).map(faultLine)
  }
}
const kind = term
</script>

<template>
  <section class="panel" data-test="kits">
    <header>
      <h2>{{ $t('Kit sheets') }}</h2>
      <label v-if="may('inspector')" class="file">
        <input type="file" accept=".yaml,.yml" data-test="kit-file" @change="bringIn" />
        <span>{{ $t('Import a sheet (YAML)') }}</span>
      </label>
    </header>
    <p v-if="said" role="status" :class="wrong.length ? 'stop' : 'small'" data-test="kit-said">{{ said }}</p>
    <ul v-if="wrong.length">
      <li v-for="w in wrong" :key="w">{{ w }}</li>
    </ul>
    <ul class="rows">
      <li v-for="k in kits" :key="k.kit.name">
        <div class="entry">
          <button
            type="button"
            class="plain"
            :aria-expanded="open === k.kit.name"
            @click="open = open === k.kit.name ? null : k.kit.name"
          >
            <b>{{ k.kit.name }}</b>
          </button>
          <span class="small">{{
            $t('{kind}, {rated_w}, peak {peak_nm} · {edition}{shipped}', {
              kind: kind(k.kit.kind),
              rated_w: withUnit(k.kit.rated_w, 'W'),
              peak_nm: withUnit(k.kit.peak_nm, 'N·m'),
              edition: k.kit.edition,
              shipped: k.shipped ? $t(', shipped') : $t(', own'),
            })
          }}</span>
          <span v-if="k.kit.stood_by" class="small">{{ $t('{name} stands by it', { name: k.kit.stood_by }) }}</span>
          <button
            v-else-if="k.kit.own && !k.kit.alone && may('inspector')"
            type="button"
            data-test="vouch"
            :title="$t('Its figures count once a second person has read it against the maker’s sheet.')"
            @click="vouch(k.kit.name)"
          >
            {{ $t('Stand by it') }}
          </button>
          <a :href="`/api/kits/${encodeURIComponent(k.kit.name)}`" download>{{ $t('Save as YAML') }}</a>
        </div>
        <div v-if="open === k.kit.name" class="inside">
          <p v-if="k.kit.excludes?.length">{{ $t('Not for: {kit}.', { kit: k.kit.excludes.join(', ') }) }}</p>
          <table v-if="k.kit.bolts?.length">
            <thead>
              <tr>
                <th>{{ $t('fastener') }}</th>
                <th class="num">{{ $t('window') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="b in k.kit.bolts" :key="b.place">
                <td>{{ b.place }}{{ b.count > 1 ? ` × ${b.count}` : '' }}</td>
                <td class="num">
                  {{
                    $t('{low_nm} to {high_nm}', {
                      low_nm: withUnit(b.low_nm, 'N·m', 2),
                      high_nm: withUnit(b.high_nm, 'N·m', 2),
                    })
                  }}
                </td>
              </tr>
            </tbody>
          </table>
          <table v-if="k.kit.codes?.length">
            <thead>
              <tr>
                <th class="num">{{ $t('code') }}</th>
                <th>{{ $t('means') }}</th>
                <th>{{ $t('look at') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="c in k.kit.codes" :key="c.code">
                <td class="num">{{ c.code }}</td>
                <td>{{ c.meaning }}</td>
                <td>{{ c.do }}</td>
              </tr>
            </tbody>
          </table>
          <table v-if="k.kit.pins?.length">
            <thead>
              <tr>
                <th>{{ $t('plug') }}</th>
                <th>{{ $t('pin') }}</th>
                <th>{{ $t('does') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="p in k.kit.pins" :key="p.plug + p.pin">
                <td>{{ p.plug }}</td>
                <td class="num left">{{ p.pin }}</td>
                <td>{{ p.function }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.inside {
  display: grid;
  gap: 12px;
  padding: 4px 0 8px;
}
td.left {
  text-align: left;
}
</style>
