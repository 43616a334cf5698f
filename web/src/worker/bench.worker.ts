import { expose } from "comlink";
import { BenchWorker } from "./benchWorker.ts";

// The worker thread: one bench, asked by messages.
expose(new BenchWorker());
