import type { ProposalLine } from '@/api/client'

type Load = [trackers: number, strings: number, length: number]

/** What hangs on one inverter, as people write it: "2 × 16 | 2 × 16", trackers divided by bars, like ones folded. */
export function loadsText(loads: Load[]): string {
  return loads
    .map(([trackers, strings, length]) => {
      const each = strings > 1 ? `${strings} × ${length}` : `${length}`
      return trackers > 1 ? `${trackers} trackers of ${each}` : each
    })
    .join(', ')
}

/** All inverters of a proposal with their strings, one line each. */
export function sharesText(proposal: Pick<ProposalLine, 'shares'>): string[] {
  return proposal.shares.map(({ count, loads }) => {
    const text = loadsText(loads as Load[])
    return proposal.shares.length > 1 ? `${count} with ${text}` : text
  })
}
