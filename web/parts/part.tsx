import type { ReactNode } from 'react';
import { ErrorBoundary, type FallbackProps } from 'react-error-boundary';
import { TextButton } from './button.tsx';
import { Notice } from './notice.tsx';

function Fault({ name, error, resetErrorBoundary }: FallbackProps & { name: string }) {
  return (
    <div className="p-4">
      <Notice kind="wrong" title={`${name} can’t be shown`}>
        Something went wrong here: {error instanceof Error ? error.message : String(error)}. The rest goes on.{' '}
        <TextButton onClick={resetErrorBoundary}>Try again</TextButton>
      </Notice>
    </div>
  );
}

/**
 * A part of a screen whose faults stay in it: they are said in its place, and the rest goes on.
 *
 * @param name what it is, at the beginning of a sentence
 * @param of what it shows; a change of it renders the part again
 */
export function Part({ name, of, children }: { name: string; of?: unknown; children: ReactNode }) {
  return (
    <ErrorBoundary
      resetKeys={[of]}
      fallbackRender={(fault) => <Fault name={name} {...fault} />}
      onError={(error) => console.error(error)}
    >
      {children}
    </ErrorBoundary>
  );
}
