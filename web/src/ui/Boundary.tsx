import { Component, type ErrorInfo, type ReactNode } from "react";

import { Button } from "./controls";

interface Props {
  /** What stands inside, as a person would call it. */
  name: string;
  /** What stands inside is another thing when this changes, and is tried anew. */
  of?: unknown;
  children: ReactNode;
}

/** Keeps a fault to the place where it happened: it is said there, the rest goes on, and the server's log has it. */
export class Boundary extends Component<Props, { fault: Error | null; of: unknown }> {
  override state: { fault: Error | null; of: unknown } = { fault: null, of: this.props.of };

  static getDerivedStateFromError(fault: Error) {
    return { fault };
  }

  static getDerivedStateFromProps(props: Props, state: { of: unknown }) {
    return props.of === state.of ? null : { fault: null, of: props.of };
  }

  override componentDidCatch(fault: Error, info: ErrorInfo) {
    const told = { where: this.props.name, message: String(fault.message), stack: info.componentStack ?? "" };
    void fetch("/api/faults", {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(told),
    }).catch(() => {});
  }

  override render() {
    const { fault } = this.state;
    if (!fault) return this.props.children;
    return (
      <div role="alert" className="grid max-w-md gap-2 justify-self-center p-4 text-[13.5px]">
        <p className="font-semibold text-signal">{this.props.name} stopped by a fault of ours.</p>
        <p className="text-ink-soft">
          Nothing that was decided is lost, and everything else works. The fault stands in the log: {fault.message}
        </p>
        <Button className="justify-self-start" onClick={() => this.setState({ fault: null })}>
          Show it again
        </Button>
      </div>
    );
  }
}
