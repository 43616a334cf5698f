import { expose } from "comlink";
import { BodyWorker } from "./bodyWorker.ts";
import { readyDraco } from "./draco.ts";

readyDraco();

// The thread of the characters screen, asked by messages.
expose(new BodyWorker());
