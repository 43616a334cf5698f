import { setDracoBinary } from "@stride/motion";
import dracoUrl from "draco3d/draco_decoder.wasm?url";

/** Lets this thread fetch the decoder of compressed meshes from the application itself, when a file first needs it. */
export function readyDraco(): void {
  setDracoBinary(async () => (await fetch(dracoUrl)).arrayBuffer());
}
