/** A share as a percentage; between 98.5 and 100 with a decimal, so that 99.6 is not taken for all. */
export function percent(share: number, decimals = share > 0.985 && share < 1 ? 1 : 0): string {
  return `${(share * 100).toFixed(decimals)} %`;
}
