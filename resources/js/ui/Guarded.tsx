import { Component, type ReactNode } from 'react';

interface Props {
  /** what stands here, in words */
  what: string;
  children: ReactNode;
}

/** A part of the window that may fail by itself: the rest stays, and it says what happened and offers itself again. */
export class Guarded extends Component<Props, { problem: Error | null }> {
  override state = { problem: null as Error | null };

  static getDerivedStateFromError(problem: Error): { problem: Error } {
    return { problem };
  }

  override componentDidCatch(problem: Error): void {
    console.error(`${this.props.what}: ${problem.stack ?? problem.message}`);
  }

  override render(): ReactNode {
    if (!this.state.problem) return this.props.children;
    return (
      <section role="alert" className="grid content-start gap-2 overflow-auto bg-base-100 p-3">
        <p>Something went wrong in {this.props.what}. Your work is safe on the server; everything else here goes on.</p>
        <p className="break-words opacity-80">{this.state.problem.message}</p>
        <button type="button" className="btn btn-sm justify-self-start" onClick={() => this.setState({ problem: null })}>
          Show it again
        </button>
      </section>
    );
  }
}
