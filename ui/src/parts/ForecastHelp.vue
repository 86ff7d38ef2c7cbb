<script setup lang="ts">
import { computed } from 'vue'
import { helpsOf, type Outlook } from './forecast'
import { when } from './words'

/** What would help a collection that is missed. */
const props = defineProps<{ outlook: Outlook }>()
const helps = computed(() => helpsOf(props.outlook))
/** Of many orders the first are named. */
const most = 5
</script>

<template>
  <ul v-if="outlook.help" class="helps small">
    <li v-for="h in helps" :key="h.words">
      {{ h.words
      }}<template v-if="h.orders.length"
        >:
        <router-link v-for="o in h.orders.slice(0, most)" :key="o.id" class="mono" :to="`/go/${o.number}`"
          >{{ o.number }} </router-link><template v-if="h.orders.length > most"
          >and {{ h.orders.length - most }} more</template
        ></template
      >, ready at <b class="mono">{{ when(h.at) }}</b>
    </li>
    <li v-if="!helps.length">Neither one more picker nor leaving what is not begun would help.</li>
  </ul>
</template>

<style scoped>
.helps {
  margin: 4px 0 0;
  padding-left: 18px;
}
</style>
