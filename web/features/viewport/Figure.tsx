'use client';

import { useFrame } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import { type Box3, ExtrudeGeometry, type Group, Shape, Vector3 } from 'three';
import { SVGLoader } from 'three/addons/loaders/SVGLoader.js';
import { mergeGeometries } from 'three/addons/utils/BufferGeometryUtils.js';
import { FIGURE_HEAD, FIGURE_PATH } from './figure.ts';

/** Between the asset and the person, in metres, with half of the person's width. */
const APART = 0.15;
const HALF_WIDTH = 0.25;
const THICK_CM = 6;

/** Where the person stands: on the ground beside the asset. */
export function figurePlace(bounds: Box3): Vector3 {
  return new Vector3(bounds.min.x - APART - HALF_WIDTH, bounds.min.y, (bounds.min.z + bounds.max.z) / 2);
}

/** A person of 1.75 m beside the asset, who turns to whoever looks. */
export function Figure({ bounds }: { bounds: Box3 }) {
  const group = useRef<Group>(null);
  const geometry = useMemo(buildFigure, []);
  useEffect(() => () => geometry.dispose(), [geometry]);
  useFrame(({ camera }) => {
    const place = group.current;
    if (place)
      place.rotation.y = Math.atan2(
        camera.position.x - place.position.x,
        camera.position.z - place.position.z,
      );
  });
  return (
    <group ref={group} position={figurePlace(bounds)}>
      <mesh geometry={geometry} scale={0.01} castShadow>
        <meshStandardMaterial color="#8c8a80" roughness={0.95} />
      </mesh>
    </group>
  );
}

/** The outline made solid, y up, in centimetres. */
function buildFigure(): ExtrudeGeometry {
  const { paths } = new SVGLoader().parse(
    `<svg xmlns="http://www.w3.org/2000/svg"><path d="${FIGURE_PATH}"/></svg>`,
  );
  const head = new Shape().absarc(0, FIGURE_HEAD.y, FIGURE_HEAD.radius, 0, Math.PI * 2);
  const pieces = [...paths.flatMap((path) => SVGLoader.createShapes(path)), head].map(
    (shape) => new ExtrudeGeometry(shape, { depth: THICK_CM, bevelEnabled: false, curveSegments: 16 }),
  );
  const joined = mergeGeometries(pieces) as ExtrudeGeometry;
  for (const piece of pieces) piece.dispose();
  // Half a turn about x makes y up without mirroring anything.
  return joined.rotateX(Math.PI).translate(0, 0, THICK_CM / 2);
}
