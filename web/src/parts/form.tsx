// The frame all forms share: the fields, the refusal that fits none of them, save and cancel.
import type { ReactNode } from 'react';
import { GeneralError, type Errors } from './fields.tsx';

export function Form({
  name,
  save,
  onSave,
  onCancel,
  errors,
  disabled = false,
  sheet = false,
  children,
}: {
  name: string;
  /** What the button says will happen. */
  save: ReactNode;
  onSave: () => unknown;
  onCancel?: () => void;
  errors: Errors;
  disabled?: boolean;
  /** On a sheet of its own, where the form stands in a page and does not float. */
  sheet?: boolean;
  children: ReactNode;
}) {
  return (
    <form
      className={`space-y-3 ${sheet ? 'sheet mt-3 p-4' : ''}`}
      noValidate
      aria-label={name}
      onSubmit={(e) => {
        e.preventDefault();
        void onSave();
      }}
    >
      {children}
      <GeneralError errors={errors} />
      <div className="form-acts">
        <button className="act-main" disabled={disabled}>
          {save}
        </button>
        {onCancel && (
          <button type="button" className="act" onClick={onCancel}>
            Cancel
          </button>
        )}
      </div>
    </form>
  );
}
