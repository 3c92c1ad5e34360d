import type { components } from './design'

/** The design document, as the core's schema describes it. */
export type Design = components['schemas']['Design']
/** A way to look at the scene that is kept. */
export type KeptView = components['schemas']['KeptView']
