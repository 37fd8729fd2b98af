import { use, type ComponentType } from "react";

/** A component that is loaded once it is drawn, or started. */
export interface Later {
  (): React.JSX.Element;
  /** Loads it ahead, and tells when that has ended; what fails is said where it is drawn. */
  start: () => Promise<unknown>;
  /** Whether it is loaded. */
  there: () => boolean;
}

/** What failed to be loaded is tried again by whoever asks after this time, in milliseconds: later than React has said that it failed. */
const AGAIN_MS = 1000;

/**
 * Puts a component into a chunk of its own. Other than one of React's lazy(), it is drawn at once where it is there already, and shows no
 * fallback, which would stay for 300 ms at least.
 */
export function later(load: () => Promise<{ default: ComponentType }>): Later {
  let there: ComponentType | undefined;
  let loading: ReturnType<typeof load> | undefined;
  const begin = () => {
    if (loading) return loading;
    loading = load().then((loaded) => {
      there = loaded.default;
      return loaded;
    });
    loading.catch(() => window.setTimeout(() => (loading = undefined), AGAIN_MS));
    return loading;
  };
  const Loaded = () => {
    const View = there ?? use(begin()).default;
    return <View />;
  };
  Loaded.start = () => begin().catch(() => undefined);
  Loaded.there = () => there !== undefined;
  return Loaded;
}
