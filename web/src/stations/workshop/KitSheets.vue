<script setup lang="ts">
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
    said.value = `${k.kit.name} imported.`
    await client.invalidateQueries({ queryKey: ['kits'] })
  } catch (x) {
    said.value = `${f.name} was not imported.`
    wrong.value = faults(x).map(faultLine)
  }
}
const kind = (k: string) => k.replaceAll('_', ' ')
</script>

<template>
  <section class="panel" data-test="kits">
    <header>
      <h2>Kit sheets</h2>
      <label v-if="may('inspector')" class="file">
        <input type="file" accept=".yaml,.yml" data-test="kit-file" @change="bringIn" />
        <span>Import a sheet (YAML)</span>
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
          <span class="small"
            >{{ kind(k.kit.kind) }}, {{ withUnit(k.kit.rated_w, 'W') }}, peak {{ withUnit(k.kit.peak_nm, 'N·m') }} ·
            {{ k.kit.edition }}{{ k.shipped ? ', shipped' : ', own' }}</span
          >
          <a :href="`/api/kits/${encodeURIComponent(k.kit.name)}`" download>Save as YAML</a>
        </div>
        <div v-if="open === k.kit.name" class="inside">
          <p v-if="k.kit.excludes?.length">Not for: {{ k.kit.excludes.join(', ') }}.</p>
          <table v-if="k.kit.bolts?.length">
            <thead>
              <tr>
                <th>fastener</th>
                <th class="num">window</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="b in k.kit.bolts" :key="b.place">
                <td>{{ b.place }}{{ b.count > 1 ? ` × ${b.count}` : '' }}</td>
                <td class="num">{{ withUnit(b.low_nm, 'N·m', 2) }} to {{ withUnit(b.high_nm, 'N·m', 2) }}</td>
              </tr>
            </tbody>
          </table>
          <table v-if="k.kit.codes?.length">
            <thead>
              <tr>
                <th class="num">code</th>
                <th>means</th>
                <th>look at</th>
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
                <th>plug</th>
                <th>pin</th>
                <th>does</th>
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
