import { useState, useSyncExternalStore } from "react";

/** The dark theme: the same tokens turned. Kept in this browser. */
export function useNight(): [boolean, (night: boolean) => void] {
  const [night, setNight] = useState(isNight);
  return [
    night,
    (next) => {
      setNight(next);
      if (next) document.documentElement.dataset.theme = "night";
      else delete document.documentElement.dataset.theme;
      localStorage.setItem("stride-theme", next ? "night" : "day");
    },
  ];
}

/** Is it night, whoever turned it? */
export function useIsNight(): boolean {
  return useSyncExternalStore(watchTheme, isNight);
}

const isNight = () => document.documentElement.dataset.theme === "night";

const watchers = new Set<() => void>();
let observer: MutationObserver | null = null;

/** One observer for all who ask. */
function watchTheme(listener: () => void): () => void {
  watchers.add(listener);
  observer ??= new MutationObserver(() => {
    for (const watcher of watchers) watcher();
  });
  observer.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
  return () => watchers.delete(listener);
}
