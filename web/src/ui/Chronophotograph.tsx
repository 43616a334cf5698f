import type { ChronoPicture } from "@stride/server";
import { useEffect, useRef } from "react";
import { type ChronoColours, drawChronophotograph } from "./drawChronophotograph.ts";
import { useNight } from "./useNight.ts";

interface ChronophotographProps {
  readonly picture: ChronoPicture | null;
  readonly seconds: number;
  readonly playing: boolean;
  readonly height: number;
  /** one pose alone, rather than its course */
  readonly alone?: boolean;
}

/** A clip's picture: silhouettes along its travel with the footprints under them. While `playing`, one of them moves. What is not there yet takes its room already. */
export function Chronophotograph({ picture, seconds, playing, height, alone = false }: ChronophotographProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [night] = useNight();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the colours that are read are the theme's
  useEffect(() => {
    const element = canvas.current;
    if (!element || !picture) return;
    const context = element.getContext("2d");
    if (!context) return;
    const colours = coloursOf(element);
    let pose: number | null = alone ? 0 : null;
    let width = 0;
    const draw = () => {
      const pixels = window.devicePixelRatio;
      const [across, down] = [Math.round(width * pixels), Math.round(height * pixels)];
      if (element.width !== across) element.width = across;
      if (element.height !== down) element.height = down;
      drawChronophotograph(context, picture, { width, height, pixels, colours, pose });
    };
    // It tells the width at once, when the page has been laid out: who asked for it here would have the page laid out for every single picture.
    const observer = new ResizeObserver(([entry]) => {
      width = entry.contentRect.width;
      draw();
    });
    observer.observe(element);
    if (!playing) return () => observer.disconnect();
    const count = picture.poses.length;
    const started = performance.now();
    let request = requestAnimationFrame(function step(now) {
      // A picture's time can lie before the moment it was asked for.
      const at = Math.floor(((Math.max(0, now - started) / 1000 / seconds) * count) % count);
      if (at !== pose && width > 0) {
        pose = at;
        draw();
      }
      request = requestAnimationFrame(step);
    });
    return () => {
      observer.disconnect();
      cancelAnimationFrame(request);
    };
  }, [picture, playing, seconds, height, night, alone]);
  return (
    <span aria-hidden="true" className="pointer-events-none block w-full" style={{ height }}>
      <canvas ref={canvas} className="block size-full" />
    </span>
  );
}

function coloursOf(element: Element): ChronoColours {
  const style = getComputedStyle(element);
  const colour = (name: string) => style.getPropertyValue(name).trim();
  return {
    left: colour("--plum"),
    right: colour("--teal"),
    middle: colour("--ink"),
    line: colour("--line"),
    slide: colour("--coral"),
    ground: colour("--sheet"),
  };
}
