<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { partsOf } from './trace'

/** All that came in as one strip, cut into where it is by now. */
const props = defineProps<{ goods: Schemas['RecallGoods'][] }>()
const whole = computed(() => partsOf(props.goods))
const shown = (n: number) => String(Math.round(n * 1000) / 1000)
</script>

<template>
  <figure data-strip :aria-label="`${shown(whole.came)} came in`">
    <figcaption>
      <b class="mono">{{ shown(whole.came) }}</b> came in
      <template v-for="(p, i) in whole.parts" :key="p.name"
        >{{ i ? ' + ' : ' = ' }}<b class="mono">{{ shown(p.quantity) }}</b> {{ p.label }}</template
      >
    </figcaption>
    <div class="strip" aria-hidden="true">
      <i v-for="p in whole.parts" :key="p.name" :class="p.name" :style="{ flexGrow: Math.max(0, p.quantity) }" />
    </div>
  </figure>
</template>

<style scoped>
figure {
  margin: 14px 0 18px;
}
figcaption {
  font-size: 17px;
  margin-bottom: 8px;
}
.strip {
  display: flex;
  gap: 2px;
  height: 22px;
}
i {
  min-width: 4px;
  border-radius: 3px;
}
.here {
  background: var(--act);
}
.customers {
  background: var(--lamp);
}
.supplier {
  background: var(--held);
}
.scrapped {
  background: repeating-linear-gradient(45deg, var(--edge) 0 4px, var(--sheet) 4px 7px);
}
.lost {
  background: var(--stop);
}
</style>
