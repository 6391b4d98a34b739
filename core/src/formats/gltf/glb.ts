/** First word of a GLB: `glTF`. */
export const GLB_MAGIC = 0x46546c67;
/** Kind of its first chunk, `JSON`, and of its second, `BIN`. */
export const JSON_CHUNK = 0x4e4f534a;
export const BINARY_CHUNK = 0x004e4942;
