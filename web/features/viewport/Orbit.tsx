import { useThree } from '@react-three/fiber';
import { useEffect } from 'react';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';

/** Turns, moves and nears the camera by pointer and wheel. Others find it as the view's controls. */
export function Orbit() {
  const camera = useThree((state) => state.camera);
  const element = useThree((state) => state.gl.domElement);
  const invalidate = useThree((state) => state.invalidate);
  const set = useThree((state) => state.set);
  useEffect(() => {
    const controls = new OrbitControls(camera, element);
    const redraw = () => invalidate();
    controls.addEventListener('change', redraw);
    set({ controls });
    return () => {
      controls.removeEventListener('change', redraw);
      controls.dispose();
      set({ controls: null });
    };
  }, [camera, element, invalidate, set]);
  return null;
}
