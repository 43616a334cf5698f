import {
  BarController,
  BarElement,
  CategoryScale,
  type ChartConfiguration,
  Chart as ChartJs,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
} from "chart.js";
import { useEffect, useRef } from "react";

ChartJs.register(BarController, BarElement, CategoryScale, Legend, LinearScale, LineController, LineElement, PointElement, Tooltip);

/** A Chart.js chart in the product's type and colours. `label` says in words what it shows. */
export function Chart({ config, label, height }: { config: ChartConfiguration; label: string; height: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (!canvas.current) return;
    ChartJs.defaults.font.family = '"Atkinson Hyperlegible Next Variable", sans-serif';
    ChartJs.defaults.font.size = 11.5;
    ChartJs.defaults.color = token("--ink-soft");
    ChartJs.defaults.borderColor = token("--line");
    const chart = new ChartJs(canvas.current, { ...config, options: { ...config.options, animation: false, responsive: true, maintainAspectRatio: false } });
    return () => chart.destroy();
  }, [config]);
  return (
    <div style={{ height }}>
      <canvas ref={canvas} role="img" aria-label={label} />
    </div>
  );
}

export function token(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}
