import type { ButtonHTMLAttributes, SelectHTMLAttributes } from 'react';

/**
 * Rounded and light, for what is changed often; filled with honey where `aria-pressed` says that it holds.
 */
export function Chip({ className = '', ...rest }: ButtonHTMLAttributes<HTMLButtonElement>) {
  return <button type="button" className={`btn btn-xs chip ${className}`} {...rest} />;
}

/** One of several words, as small as a chip. */
export function ChipSelect({ className = '', ...rest }: SelectHTMLAttributes<HTMLSelectElement>) {
  return <select className={`select select-xs chip ${className}`} {...rest} />;
}
