import { useQueryClient } from "@tanstack/react-query";
import { Component, type ReactNode } from "react";
import { isChunkMissing } from "../parts/failures";

const RELOADED = "reloaded for";

type BoundaryProps = { place: string; children: ReactNode };

/** A place that fails alone: the others go on, and this one can be tried again. */
export function Boundary({ place, children }: BoundaryProps) {
  const queries = useQueryClient();
  return (
    <Catcher key={place} place={place} onAgain={() => queries.resetQueries()}>
      {children}
    </Catcher>
  );
}

type CatcherProps = BoundaryProps & { onAgain: () => Promise<void> };

class Catcher extends Component<CatcherProps, { error: Error | null }> {
  override state: { error: Error | null } = { error: null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  /** A part of the program that is gone is in the newer one: the page is loaded anew, once. */
  override componentDidCatch(error: Error) {
    if (!isChunkMissing(error) || sessionStorage.getItem(RELOADED) === error.message) return;
    sessionStorage.setItem(RELOADED, error.message);
    window.location.reload();
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    const handleAgain = async () => {
      await this.props.onAgain(); // what failed may have been the answer that is kept
      this.setState({ error: null });
    };
    return (
      <main className="flex max-w-[70ch] flex-col items-start gap-3 p-4">
        <h1>{this.props.place} could not be shown</h1>
        <p role="alert" className="text-stop">
          ■ {error.message}
        </p>
        <p className="text-ink2">
          Nothing is lost: everything you did is kept on the server. The other places go on.
        </p>
        <button type="button" className="button" onClick={() => void handleAgain()}>
          Try again
        </button>
      </main>
    );
  }
}
