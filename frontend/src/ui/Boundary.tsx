import { Component, type ReactNode } from "react";
import { Button } from "./Button";

interface Props {
  /** What it is around, as one would call it. */
  name: string;
  children: ReactNode;
}

/** Keeps a fault within what it is around: the rest of the page goes on, and what failed can be shown again. */
export class Boundary extends Component<Props, { fault: Error | null }> {
  override state = { fault: null as Error | null };

  static getDerivedStateFromError(fault: Error) {
    return { fault };
  }

  override render() {
    const { fault } = this.state;
    if (!fault) return this.props.children;
    return (
      <div role="alert" className="m-4 max-w-lg self-start rounded-sm bg-brick-pale px-3 py-2 text-brick">
        <p>
          {this.props.name} could not be shown ({fault.message}). Nothing you did is lost, and the rest goes
          on.
        </p>
        <Button className="mt-2" onClick={() => this.setState({ fault: null })}>
          Show it again
        </Button>
      </div>
    );
  }
}
