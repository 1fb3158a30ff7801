<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { bare, unitShown, withUnit } from '@/state/units'

/** At what it tips, in words and figures. */
defineProps<{ out: Schemas['TrikeStand']; radius: number }>()
</script>

<template>
  <p class="big num" role="status" data-test="corner">{{ withUnit(out.tip.corner_kmh, 'km/h') }}</p>
  <p class="small">
    {{ $t('in a bend of {radius} {unit}, before it tips', { radius: bare(radius, 'm', 0), unit: unitShown('m') }) }}
  </p>
  <p>
    {{ $t('Tips at') }} <b class="num">{{ bare(out.tip.tip_g, 'g', 2) }} g</b> {{ $t('on the level,') }}
    <b class="num">{{ bare(out.tip.tip_slope_g, 'g', 2) }} g</b> {{ $t('on the slope; braked in the bend at') }}
    <b class="num" data-test="tip-brake">{{ bare(out.tip.tip_brake_g, 'g', 2) }} g</b
    >{{ $t('. A tilt table would show') }} <b class="num">{{ withUnit(out.tip.tilt_deg, '°') }}</b>{{
      $t('. The weight sits')
    }}
    <b class="num">{{ withUnit(out.h_mm, 'mm') }}</b> {{ $t('high.') }}
  </p>
  <p v-if="out.tip.pitches" class="stop">{{ $t('It goes over its end when braked like that.') }}</p>
</template>

<style scoped>
.big {
  font: 700 46px/1.1 var(--figures);
  margin: 0;
}
</style>
