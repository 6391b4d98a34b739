import { answerShape, type ShapeRequest } from './shapeWork.ts';

/** Looks at a part's shape away from the page. */
self.onmessage = async ({ data }: MessageEvent<ShapeRequest>) => {
  try {
    self.postMessage(await answerShape(data));
  } catch (error) {
    self.postMessage({ id: data.id, error: error instanceof Error ? error.message : String(error) });
  }
};
