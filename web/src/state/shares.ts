/** The shares of weights in whole percent, which add up to 100: what is left over goes to those that lost most by rounding. */
export function shares(weights: number[]): number[] {
  const sum = weights.reduce((a, b) => a + b, 0)
  if (!sum) return weights.map(() => 0)
  const exact = weights.map((w) => (100 * w) / sum)
  const whole = exact.map(Math.floor)
  const left = 100 - whole.reduce((a, b) => a + b, 0)
  const order = exact.map((e, n) => [e - whole[n], n]).sort(([a, m], [b, n]) => b - a || m - n)
  for (const [, n] of order.slice(0, left)) whole[n]++
  return whole
}
