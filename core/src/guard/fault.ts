import { type FaultPlace, KinkajouError } from '../errors.ts';

/** An error as data: between threads it loses its kind. */
export interface GuardFault {
  code: string;
  message: string;
  place: FaultPlace;
  hint: string;
}

/** The error again. */
export function revived({ code, message, place, hint }: GuardFault): KinkajouError {
  return new KinkajouError(code, message, place, hint);
}
