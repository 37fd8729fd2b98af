import { Component, type ReactNode } from "react";
import { Trouble } from "../parts/trouble/Trouble";
import { useBench } from "../work/BenchContext";

interface Props {
  /** The bench that is drawn: another one is drawn afresh. */
  bench: unknown;
  children: ReactNode;
}

interface State {
  error: Error | null;
  /** The bench at which it failed. */
  at: unknown;
}

/** Keeps what fails in a view within it: bar, rail and glass stay, and so do the ways back. */
class Boundary extends Component<Props, State> {
  override state: State = { error: null, at: undefined };

  static getDerivedStateFromError(error: Error): Partial<State> {
    return { error };
  }

  static getDerivedStateFromProps({ bench }: Props, { error, at }: State): Partial<State> | null {
    if (!error) return { at: bench };
    return bench === at ? null : { error: null, at: bench };
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return <Trouble trouble={error} stale={false} again={() => this.setState({ error: null })} />;
  }
}

export function ViewBoundary({ children }: { children: ReactNode }) {
  const { bench } = useBench();
  return <Boundary bench={bench}>{children}</Boundary>;
}
