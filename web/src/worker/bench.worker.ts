import { expose } from "comlink";
import { BenchWorker } from "./benchWorker.ts";
import { readyDraco } from "./draco.ts";

readyDraco();

// The worker thread: one bench, asked by messages.
expose(new BenchWorker());
