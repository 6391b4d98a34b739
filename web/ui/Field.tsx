import type { InputHTMLAttributes, SelectHTMLAttributes } from 'react';

/** Classes of an input, where one stands without {@link Field}. */
export const FIELD = 'input input-xs h-[26px] px-2 text-[12.5px]';

/** A line to type in. Its width is 100% of what holds it unless a class says otherwise. */
export function Field({ className = '', ...rest }: InputHTMLAttributes<HTMLInputElement>) {
  return <input className={`${FIELD} ${className}`} {...rest} />;
}

/** A choice from a list, in the size of the other fields. */
export function SelectField({ className = '', ...rest }: SelectHTMLAttributes<HTMLSelectElement>) {
  return <select className={`select select-xs h-[26px] text-[12.5px] ${className}`} {...rest} />;
}
