import { setDracoBinary } from "@stride/motion";
import { expose } from "comlink";
import dracoUrl from "draco3d/draco_decoder.wasm?url";
import { BenchWorker } from "./benchWorker.ts";

setDracoBinary(async () => (await fetch(dracoUrl)).arrayBuffer());

// The worker thread: one bench, asked by messages.
expose(new BenchWorker());
