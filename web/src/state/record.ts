import { create } from "zustand";
import { uploadClip } from "../api/client.ts";
import { useBench } from "./bench.ts";
import { labelsLike } from "./labels.ts";
import { playhead } from "./playhead.ts";
import { askWorker } from "./session.ts";

/** What is being recorded, and what became of the last recording. */
interface Recording {
  /** frame at which it was begun; null while none runs */
  readonly from: number | null;
  readonly busy: boolean;
  readonly said: string | null;
}

export const useRecording = create<Recording>(() => ({ from: null, busy: false, said: null }));

/** Frames between two presses, in order: what was played, or stepped, from the one to the other. */
export function recordedFrames(from: number, to: number): [number, number] {
  return from <= to ? [from, to] : [to, from];
}

/** Begins to record the result as it plays; pressed again, what was played is a new clip of the library. */
export async function recordPress(): Promise<void> {
  const { from, busy } = useRecording.getState();
  if (busy) return;
  if (from === null) {
    useRecording.setState({ from: playhead.frame, said: null });
    if (!playhead.playing) playhead.play();
    return;
  }
  playhead.pause();
  const [first, last] = recordedFrames(from, playhead.frame);
  useRecording.setState({ from: null, busy: true });
  try {
    const name = `${useBench.getState().name} ${first}-${last}`;
    const text = await askWorker((w) => w.fileOf(first, last, name));
    const file = new File([text], `${name.replace(/[\\/:*?"<>|]+/g, " ")}.bvh`);
    const row = await uploadClip(file, { labels: labelsLike(useBench.getState().clip, name), again: true });
    useRecording.setState({ busy: false, said: `Frames ${first}–${last} are in the library as “${row.name}”` });
  } catch (error) {
    useRecording.setState({ busy: false, said: `Nothing was recorded: ${error instanceof Error ? error.message : String(error)}` });
  }
}
