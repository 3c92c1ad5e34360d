<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import type { Acts, MoneyAnswer } from '@/api/client'
import { patchAt } from '@/api/mergePatch'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import NumberField from '@/brief/NumberField.vue'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import CopyTable from '@/tables/CopyTable.vue'
import { number } from '@/theme/format'
import RulesYield from './RulesYield.vue'

/** What the plant costs: items of the purchase beside the bill of materials, who pays for it, and what it costs every year. */
const props = defineProps<{ money: MoneyAnswer }>()
const store = useSchemeStore()
const library = useLibrary()
const route = useRoute()
interface Item {
  name?: string
  is_on?: boolean
}
const of = (kind: string) => Object.entries((store.at(`/money/${kind}`) ?? {}) as unknown as Record<string, Item>)
const KINDS = [
  { key: 'upkeep', title: 'Every year', add: 'Add a yearly cost' },
  { key: 'replacements', title: 'Replacements', add: 'Add a replacement' },
  { key: 'grants', title: 'Grants', add: 'Add a grant' },
  { key: 'loans', title: 'Loans', add: 'Add a loan' },
  { key: 'tax_relief', title: 'Tax relief', add: 'Add tax relief' },
] as const
const add = (kind: Acts['add-cost']['kind']) => store.act('add-cost', { kind })
const own = computed(() => (store.at('/money/own_purchase') as number | undefined) ?? null)
const rateOf = (currency: string) => (store.at(`/money/exchange/${currency}`) as number | undefined) ?? null
const limitsOf = (pointer: string) => library.field(pointer) ?? undefined
const flowOf = (title: string) => props.money.flows.find((f) => f.title === title)?.amounts ?? []
const firstYear = (title: string) => flowOf(title)[1] ?? 0
</script>
<template>
  <section class="costs">
    <p class="said serif">
      The purchase comes to <b>{{ number(money.purchase_estimated) }} {{ money.currency }}</b> by its items; an own
      figure
      <NumberField
        class="blank own"
        :value="own"
        :limits="limitsOf('/money/own_purchase')"
        aria-label="Own figure of the purchase"
        placeholder="none"
        @change="store.edit(patchAt('/money/own_purchase', $event))"
      />
      {{ own === null ? 'would replace it' : 'replaces it' }}. Counted over
      <BriefNumber pointer="/money/years" label="Years counted" /> years at
      <BriefNumber pointer="/money/interest" label="Interest" /> interest, in
      <BriefText
        class="currency"
        :value="(store.at('/money/currency') as string | undefined) ?? money.currency"
        label="Currency (ISO 4217)"
        @change="store.edit({ money: { currency: $event.toUpperCase() || null } })"
      />.
    </p>
    <p v-if="money.foreign.length" class="said serif">
      Some parts are priced in another currency, as their datasheets say:
      <template v-for="(currency, i) in money.foreign" :key="currency"
        >{{ i ? ', ' : '' }}1 {{ currency }} is
        <NumberField
          class="blank own"
          :value="rateOf(currency)"
          :limits="limitsOf(`/money/exchange/${currency}`)"
          :aria-label="`Worth of one ${currency}`"
          placeholder="?"
          @change="store.edit(patchAt(`/money/exchange/${currency}`, $event))"
        />
        {{ money.currency }}</template
      >.
      <span v-if="money.without_price" class="care">Without a rate such a price does not count.</span>
    </p>
    <p class="tools"><b class="serif">Purchase</b><CopyTable within=".costs" /></p>
    <table class="ledger">
      <thead>
        <tr>
          <th scope="col">Item</th>
          <th scope="col" class="num">Quantity</th>
          <th scope="col" class="num">Price, {{ money.currency }}</th>
          <th scope="col">per</th>
          <th scope="col" class="num">Amount, {{ money.currency }}</th>
          <th scope="col"><span class="sr">Delete</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(line, i) in money.purchase" :key="line.key || line.title">
          <template v-if="line.key">
            <td>
              <BriefText
                :value="line.title"
                label="Name of the item"
                @change="store.edit(patchAt(`/money/costs/${line.key}/name`, $event || null))"
              />
            </td>
            <td class="num">{{ number(line.quantity, line.quantity % 1 ? 2 : 0) }}</td>
            <td class="num">
              <BriefNumber :pointer="`/money/costs/${line.key}/amount`" :label="`Price of ${line.title}`" unit="" />
            </td>
            <td><BriefChoice :pointer="`/money/costs/${line.key}/per`" :label="`Per, ${line.title}`" /></td>
          </template>
          <template v-else-if="i === 0">
            <td>
              <router-link
                class="go"
                :to="{ params: { ...route.params, bench: 'circuits' }, query: { page: 'bill' } }"
                >{{ line.title }}</router-link
              >
              <span v-if="money.without_price" class="care"> {{ money.without_price }} lines without a price</span>
            </td>
            <td class="num" />
            <td class="num soft">list prices</td>
            <td />
          </template>
          <template v-else>
            <td>{{ line.title }}</td>
            <td class="num">{{ number(line.quantity) }}</td>
            <td class="num">
              <BriefNumber
                :pointer="line.title === 'Contingency' ? '/money/contingency' : '/money/purchase_tax'"
                :label="line.title"
              />
            </td>
            <td />
          </template>
          <td class="num">{{ number(line.amount, 2) }}</td>
          <td class="num">
            <button
              v-if="line.key"
              type="button"
              class="link"
              :aria-label="`Delete ${line.title}`"
              @click="store.edit(patchAt(`/money/costs/${line.key}`, null))"
            >
              ×
            </button>
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <th scope="row" colspan="4">Sum{{ own === null ? '' : ', which the own figure replaces' }}</th>
          <td class="num">
            <b>{{ number(money.purchase_estimated, 2) }}</b>
          </td>
          <td />
        </tr>
      </tfoot>
    </table>
    <p class="acts">
      <button type="button" class="button" @click="add('costs')">Add an item</button>
      <span class="soft"
        >Contingency <BriefNumber pointer="/money/contingency" label="Contingency" />, tax
        <BriefNumber pointer="/money/purchase_tax" label="Tax on the purchase" />, rest value
        <BriefNumber pointer="/money/rest_value" label="Rest value after the years"
      /></span>
    </p>
    <div class="others">
      <div v-for="kind in KINDS" :key="kind.key">
        <p class="tools">
          <b class="serif">{{ kind.title }}</b>
          <button type="button" class="link" @click="add(kind.key)">{{ kind.add }}</button>
        </p>
        <p v-for="[key, item] in of(kind.key)" :key="key" class="line" :class="{ off: item.is_on === false }">
          <BriefText
            :value="item.name ?? ''"
            :label="`Name, ${kind.title}`"
            @change="store.edit(patchAt(`/money/${kind.key}/${key}/name`, $event || null))"
          />:
          <template v-if="kind.key === 'upkeep' || kind.key === 'replacements'">
            <BriefNumber :pointer="`/money/${kind.key}/${key}/amount`" :label="`Amount, ${item.name}`" unit="" /> per
            <BriefChoice :pointer="`/money/${kind.key}/${key}/per`" :label="`Per, ${item.name}`" />
            <template v-if="kind.key === 'replacements'"
              >every <BriefNumber :pointer="`/money/${kind.key}/${key}/every`" :label="`Every, ${item.name}`"
            /></template>
          </template>
          <template v-else-if="kind.key === 'grants'">
            <BriefNumber :pointer="`/money/grants/${key}/share`" label="Share of the purchase" /> of the purchase and
            <BriefNumber :pointer="`/money/grants/${key}/amount`" label="Amount" unit="" /> {{ money.currency }}
          </template>
          <template v-else-if="kind.key === 'loans'">
            <BriefNumber :pointer="`/money/loans/${key}/share`" label="Share of the purchase" /> of the purchase at
            <BriefNumber :pointer="`/money/loans/${key}/interest`" label="Interest of the loan" /> over
            <BriefNumber :pointer="`/money/loans/${key}/years`" label="Years of the loan" /> years,
            <BriefChoice :pointer="`/money/loans/${key}/repayment`" label="Repayment" />
          </template>
          <template v-else>
            <BriefNumber :pointer="`/money/tax_relief/${key}/share`" label="Share that is written off" /> of the
            purchase over <BriefNumber :pointer="`/money/tax_relief/${key}/years`" label="Years of the write-off" />, at
            a tax of
            <BriefNumber :pointer="`/money/tax_relief/${key}/rate`" label="Tax rate" />
          </template>
          <button
            type="button"
            class="link"
            :aria-pressed="item.is_on !== false"
            @click="store.edit(patchAt(`/money/${kind.key}/${key}/is_on`, item.is_on === false ? null : false))"
          >
            {{ item.is_on === false ? 'not in use' : 'in use' }}
          </button>
          <button
            type="button"
            class="link"
            :aria-label="`Delete ${item.name}`"
            @click="store.edit(patchAt(`/money/${kind.key}/${key}`, null))"
          >
            ×
          </button>
        </p>
      </div>
      <RulesYield :money="money" />
      <div>
        <p class="tools"><b class="serif">Statement</b></p>
        <p class="line">
          <textarea
            class="field statement"
            rows="4"
            maxlength="400"
            :value="money.statement"
            aria-label="Statement on the inputs: which were measured, and which estimated"
            @change="
              store.edit(
                patchAt(
                  '/money/statement',
                  ($event.target as HTMLTextAreaElement).value.replace(/\s+/g, ' ').trim() || null,
                ),
              )
            "
          />
          <span class="soft">{{
            store.at('/money/statement')
              ? 'In your words; empty it for what the design says.'
              : 'What the design itself says; write your own over it.'
          }}</span>
        </p>
      </div>
    </div>
    <p v-if="firstYear('Upkeep')" class="soft foot">
      Yearly costs of {{ number(-firstYear('Upkeep')) }} {{ money.currency }} in the first year, changing by
      <BriefNumber pointer="/money/cost_change" label="Change of costs a year" /> a year.
    </p>
  </section>
</template>
<style scoped>
.costs {
  display: grid;
  gap: 8px;
}
.said {
  font-size: 14.5px;
  line-height: 1.55;
}
.said :deep(.own) {
  min-width: 46px;
}
.tools {
  display: flex;
  gap: 14px;
  align-items: baseline;
  font-size: 12px;
}
.tools b {
  font-size: 14px;
}
.currency {
  width: 3.2em;
}
td,
th {
  padding: 2.5px 6px !important;
}
.go {
  text-decoration: none;
  border-bottom: 1.5px dotted var(--haze);
}
.others {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 12px 28px;
  margin-top: 8px;
}
.line {
  font-size: 12.5px;
  line-height: 1.6;
}
.line .link {
  margin-left: 6px;
  font-size: 11.5px;
}
.line.off {
  opacity: 0.6;
}
.statement {
  width: 100%;
}
.foot,
.acts {
  font-size: 12px;
  align-items: baseline;
}
@media (max-width: 1150px) {
  .others {
    grid-template-columns: 1fr;
  }
}
</style>
