<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useSchemeStore } from '@/stores/useSchemeStore'
import CashPage from './CashPage.vue'
import CostsPage from './CostsPage.vue'
import PricePage from './PricePage.vue'
import { useMoney } from './useMoney'

/** What energy costs and earns, what the plant costs, and what comes of it over the years. */
const PAGES = [
  { key: 'price', title: 'Price and bill', page: PricePage },
  { key: 'costs', title: 'Purchase and costs', page: CostsPage },
  { key: 'years', title: 'Over the years', page: CashPage },
] as const
const store = useSchemeStore()
const route = useRoute()
const open = computed(() => PAGES.find((p) => p.key === route.query.page) ?? PAGES[0])
const to = (key: string) => ({ query: { ...route.query, page: key === 'price' ? undefined : key } })
const { answer, fault } = useMoney()
</script>
<template>
  <div class="bench">
    <header>
      <h2>Money</h2>
      <nav class="tools" aria-label="Pages of the bench">
        <router-link
          v-for="page in PAGES"
          :key="page.key"
          class="link"
          :to="to(page.key)"
          :aria-current="page.key === open.key ? 'true' : 'false'"
          >{{ page.title }}</router-link
        >
      </nav>
    </header>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <component :is="open.page" v-if="answer" :money="answer" />
    <p v-else-if="!store.evaluation?.headline" class="soft empty">
      Money is counted once the scheme has weather and modules.
    </p>
  </div>
</template>
<style scoped>
.tools {
  gap: 2px 18px;
}
.tools .link {
  text-decoration: none;
}
</style>
