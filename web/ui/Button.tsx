import type { ButtonHTMLAttributes } from 'react';

interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  /** The one that is most likely wanted: filled, where the others are outlined. */
  main?: boolean;
}

/** What makes links and labels look like buttons. */
export function buttonClass(main = false): string {
  return `btn btn-xs btn-primary h-[23px] gap-1 px-2 text-[12px] whitespace-nowrap ${main ? '' : 'btn-outline'}`;
}

/** Does one thing, which its words say. */
export function Button({ main, className = '', ...rest }: ButtonProps) {
  return <button type="button" className={`${buttonClass(main)} ${className}`} {...rest} />;
}
