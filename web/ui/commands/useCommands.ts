'use client';

import { useEffect, useRef } from 'react';
import { addLayer, type Handlers } from './registry.ts';

/**
 * Offers commands while the calling part of the page is shown. Handlers are those of the latest rendering,
 * whether its effects ran or not.
 */
export function useCommands(handlers: Handlers): void {
  const layer = useRef(handlers);
  layer.current = handlers;
  useEffect(() => addLayer(layer), []);
}
