import { useSyncExternalStore } from "react";

type Listener = () => void;

/** Where in time the bench is. Lives outside React's render: what draws every frame subscribes to it directly. */
export class Playhead {
  frame = 0;
  playing = false;
  looping = true;
  fps = 30;
  last = 0;
  /** played stretch, inclusive; null is the whole motion */
  range: readonly [number, number] | null = null;
  private readonly listeners = new Set<Listener>();
  private request = 0;
  private startedAt = 0;
  private startedFrame = 0;

  subscribe = (listener: Listener): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  setClip(frameCount: number, fps: number): void {
    this.last = frameCount - 1;
    this.fps = fps;
    if (this.frame > this.last) this.frame = this.last;
    if (this.range && this.range[1] > this.last) this.range = null;
    this.tell();
  }

  seek(frame: number): void {
    this.frame = Math.max(0, Math.min(this.last, Math.round(frame)));
    this.restart();
    this.tell();
  }

  toggle(): void {
    if (this.playing) this.pause();
    else this.play();
  }

  /** Frames follow the clock, not the screen: at a slow draw rate frames are skipped and the speed stays true. */
  play(): void {
    const [from, to] = this.range ?? [0, this.last];
    if (this.frame < from || this.frame >= to) this.frame = from;
    this.playing = true;
    this.restart();
    const step = (now: number) => {
      if (!this.playing) return;
      const [a, b] = this.range ?? [0, this.last];
      let next = this.startedFrame + Math.floor(((now - this.startedAt) / 1000) * this.fps);
      if (next > b) {
        if (!this.looping) {
          this.frame = b;
          this.pause();
          return;
        }
        next = a + ((next - a) % (b - a + 1));
      }
      if (next !== this.frame) {
        this.frame = next;
        this.tell();
      }
      this.request = requestAnimationFrame(step);
    };
    this.request = requestAnimationFrame(step);
    this.tell();
  }

  pause(): void {
    this.playing = false;
    cancelAnimationFrame(this.request);
    this.tell();
  }

  setRange(range: readonly [number, number] | null): void {
    this.range = range;
    this.restart();
    this.tell();
  }

  setLooping(looping: boolean): void {
    this.looping = looping;
    this.tell();
  }

  private restart(): void {
    this.startedAt = performance.now();
    this.startedFrame = this.frame;
  }

  private tell(): void {
    for (const listener of this.listeners) listener();
  }
}

export const playhead = new Playhead();

/** The frame as React state, for the few places that show it as text. */
export function usePlayheadFrame(): number {
  return useSyncExternalStore(playhead.subscribe, () => playhead.frame);
}

/** The played stretch as React state; null is the whole motion. */
export function usePlayRange(): readonly [number, number] | null {
  return useSyncExternalStore(playhead.subscribe, () => playhead.range);
}

export function usePlaying(): boolean {
  return useSyncExternalStore(playhead.subscribe, () => playhead.playing);
}
