import { Button } from 'antd';
import { Component, type ReactNode } from 'react';
import { Nothing } from './parts';

/** Stands around a page: an error while it is drawn leaves the rest of the product usable. */
export class Mishap extends Component<{ children: ReactNode }, { error?: Error }> {
  state: { error?: Error } = {};

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  render() {
    if (!this.state.error) return this.props.children;
    return (
      <div className="page" role="alert">
        <Nothing
          title="This page could not be drawn"
          action={
            <Button type="primary" onClick={() => this.setState({ error: undefined })}>
              Draw it again
            </Button>
          }
        >
          Drafts are saved within a second of each change, so at most the last keystrokes are lost. The
          reason: <span className="mono">{this.state.error.message}</span>
        </Nothing>
      </div>
    );
  }
}
