'use client';

import NextLink from 'next/link';
import { type ComponentProps, useState } from 'react';

/**
 * A link whose page is fetched ahead when it is pointed at or reached by keys. Fetched for each link that is
 * seen, a shelf of cards would cost the server as much as forty pages.
 */
export function Link(props: ComponentProps<typeof NextLink>) {
  const [near, setNear] = useState(false);
  return (
    <NextLink
      {...props}
      prefetch={near ? null : false}
      onMouseEnter={() => setNear(true)}
      onFocus={() => setNear(true)}
    />
  );
}
