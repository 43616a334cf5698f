/** How figures are written everywhere: fixed decimals by unit, a real minus sign. */
export function showFigure(value: number, unit: string): string {
  const decimals = unit === "f" || unit === "%" ? 0 : unit === "°/f²" ? 0 : 1;
  const fixed = value.toFixed(decimals);
  // No minus before a zero.
  const text = Number(fixed) === 0 ? fixed.replace("-", "") : fixed.replace("-", "−");
  return unit === "°" || unit === "°/f²" ? `${text}${unit}` : `${text} ${unit}`;
}

export function showSeconds(seconds: number): string {
  return `${seconds.toFixed(seconds < 100 ? 1 : 0)} s`;
}
