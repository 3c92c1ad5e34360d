<script setup lang="ts">
import { ref, watch } from 'vue'
import { api } from '@/api/client'
import NumberField from '@/brief/NumberField.vue'
import { useNotice } from '@/notice/useNotice'
import { day } from '@/theme/format'

/** Addresses that show this scheme to others: each of one revision, to be read and not changed, until its day. */
const props = defineProps<{ scheme: number; revision: number }>()
const { say, warn } = useNotice()
const answer = ref<Awaited<ReturnType<typeof api.sharedViews>> | null>(null)
const days = ref(0)
async function read() {
  try {
    answer.value = await api.sharedViews(props.scheme)
    days.value ||= answer.value.days
  } catch (error) {
    warn((error as Error).message)
  }
}
watch(() => [props.scheme, props.revision], read, { immediate: true })
const whole = (address: string) => location.origin + address
async function copy(address: string) {
  try {
    await navigator.clipboard.writeText(whole(address))
    say('The address is copied.')
  } catch {
    warn('The clipboard cannot be reached. Mark the address and copy it.')
  }
}
async function share() {
  try {
    const view = await api.share(props.scheme, { days: days.value })
    await read()
    await copy(view.address)
  } catch (error) {
    warn((error as Error).message)
  }
}
async function takeBack(key: string) {
  try {
    await api.takeBack(key)
    await read()
    say('The view is taken back: its address shows nothing any more.')
  } catch (error) {
    warn((error as Error).message)
  }
}
</script>
<template>
  <section aria-label="A view for others">
    <h3 class="cap">A view for others</h3>
    <p class="soft">
      An address that shows this revision to whoever has it: figures, pictures and the customer’s report, to be read and
      not changed. It reaches as far as this server does.
    </p>
    <div v-for="view in answer?.views ?? []" :key="view.id" class="view">
      <a class="link address" :href="view.address" target="_blank" rel="noopener">{{ whole(view.address) }}</a>
      <span class="soft"
        >revision {{ view.revision }}{{ view.is_current ? '' : ', an earlier state' }}, until
        {{ day(view.expires) }}</span
      >
      <span class="acts">
        <button type="button" class="link" @click="copy(view.address)">copy</button>
        <button type="button" class="link bad" @click="takeBack(view.id)">take back</button>
      </span>
    </div>
    <form v-if="answer" class="new" @submit.prevent="share">
      <button type="submit" class="button">Share this revision</button>
      <label
        >for
        <NumberField
          :value="days"
          :limits="{ min: answer.least_days, max: answer.most_days, step: answer.least_days }"
          class="field days"
          aria-label="Days until it expires"
          @change="days = $event ?? answer.days"
        />
        days</label
      >
    </form>
  </section>
</template>
<style scoped>
p {
  margin: 0 0 6px;
  font-size: 12.5px;
}
h3 {
  margin: 0 0 2px;
}
.view {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  gap: 4px 14px;
  border-top: 1px solid var(--rule);
  padding: 4px 0;
  font-size: 12.5px;
}
.address {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.new :deep(.days) {
  width: 64px;
}
.acts {
  display: flex;
  gap: 12px;
}
.new {
  display: flex;
  gap: 14px;
  align-items: baseline;
  border-top: 1px solid var(--rule);
  padding-top: 10px;
}
</style>
