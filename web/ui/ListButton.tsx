import type { ButtonHTMLAttributes } from 'react';

interface ListButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  /** What is shown beside the list. */
  current: boolean;
}

/** One of a list at the side, which shows it when it is pressed. */
export function ListButton({ current, className = '', ...rest }: ListButtonProps) {
  return (
    <button
      type="button"
      aria-current={current}
      className={`w-full cursor-pointer border-l-4 px-2.5 py-1 text-left ${current ? 'border-accent bg-base-100 font-semibold' : 'border-transparent hover:bg-base-100/60'} ${className}`}
      {...rest}
    />
  );
}
