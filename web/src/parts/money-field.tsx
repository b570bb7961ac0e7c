// An amount of money, typed loosely and read back: what was understood stands beside it.
import { useState } from 'react';
import { readAmount, sayAmountOf } from '#core/money.ts';
import { TextField } from './fields.tsx';

/** `value` is whole minor units, null for none; unreadable text is told at once and gives NaN, which nothing accepts. */
export function MoneyField({
  label,
  value,
  currency,
  onChange,
  error,
  hint,
}: {
  label: string;
  value: number | null;
  currency: string;
  onChange: (minor: number | null) => void;
  error?: string | undefined;
  hint?: string;
}) {
  const [text, setText] = useState(value === null || Number.isNaN(value) ? '' : sayAmountOf(value, currency));
  const minor = text.trim() === '' ? null : readAmount(text, currency);
  const unread = text.trim() !== '' && minor === null;
  return (
    <TextField
      label={`${label}, ${currency}`}
      value={text}
      onChange={(typed) => {
        setText(typed);
        onChange(typed.trim() === '' ? null : (readAmount(typed, currency) ?? NaN));
      }}
      error={unread ? 'Write an amount such as 1,250.00.' : error}
      hint={minor === null ? (hint ?? 'Empty: none.') : `${currency} ${sayAmountOf(minor, currency)}`}
    />
  );
}

/** The same in a row of a list: its label is read out, and nothing stands above or below it unless it is wrong. */
export function MoneyCell({
  label,
  value,
  currency,
  onChange,
}: {
  label: string;
  value: number | null;
  currency: string;
  onChange: (minor: number | null) => void;
}) {
  const [text, setText] = useState(value === null ? '' : sayAmountOf(value, currency));
  const unread = text.trim() !== '' && readAmount(text, currency) === null;
  return (
    <span className="w-36">
      <input
        aria-label={`${label}, ${currency}`}
        aria-invalid={unread}
        className="box-field text-right tabular-nums"
        value={text}
        onChange={(e) => {
          const typed = e.target.value;
          setText(typed);
          onChange(typed.trim() === '' ? null : (readAmount(typed, currency) ?? NaN));
        }}
      />
      {unread && <span className="block text-[0.87rem] text-missed">Such as 1,250.00.</span>}
    </span>
  );
}
