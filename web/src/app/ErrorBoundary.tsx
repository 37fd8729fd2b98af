import { Component, type ReactNode } from "react";

/** Says what failed instead of leaving an empty page. What was saved is safe. */
export class ErrorBoundary extends Component<{ children: ReactNode }, { error?: Error }> {
  override state: { error?: Error } = {};

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <div role="alert" style={{ padding: 32 }}>
        <h1>This page failed</h1>
        <p>{error.message}</p>
        <p>
          Your bench is saved as you type. <a href="/">Open it again</a>.
        </p>
      </div>
    );
  }
}
