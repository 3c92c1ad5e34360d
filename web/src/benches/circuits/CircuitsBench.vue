<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import BillTable from './BillTable.vue'
import OneLine from './OneLine.vue'
import PartsShelf from './PartsShelf.vue'
import StringsPage from './StringsPage.vue'
import WiringPage from './WiringPage.vue'

/** The pages of the bench, in the order of the work; which one is open stands in the address. */
const PAGES = [
  { key: 'strings', title: 'Strings', page: StringsPage },
  { key: 'wiring', title: 'Cables and protection', page: WiringPage },
  { key: 'diagram', title: 'One-line diagram', page: OneLine },
  { key: 'bill', title: 'Bill of materials', page: BillTable },
  { key: 'parts', title: 'Parts library', page: PartsShelf },
] as const
const route = useRoute()
/** A part that was found by name opens the library from the page of the strings. */
const open = computed(() => (route.query.part ? PAGES[0] : (PAGES.find((p) => p.key === route.query.page) ?? PAGES[0])))
const to = (key: string) => ({ query: { ...route.query, page: key === 'strings' ? undefined : key } })
</script>
<template>
  <div class="bench">
    <header>
      <h2>Circuits</h2>
      <nav class="pages" aria-label="Pages of the bench">
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
    <component :is="open.page" />
  </div>
</template>
<style scoped>
.pages {
  display: flex;
  gap: 18px;
  flex-wrap: wrap;
}
@media (max-width: 1150px) {
  .pages {
    gap: 12px;
    font-size: 12.5px;
  }
}
.pages .link {
  text-decoration: none;
}
</style>
