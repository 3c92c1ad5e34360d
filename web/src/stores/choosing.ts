import { ref } from 'vue'

/** Whether the sheet of units and numbers is open. */
export const isChoosingHabits = ref(false)
