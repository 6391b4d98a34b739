/** The extra under which a node of the preview tells its key. */
export const NODE_KEY = 'nodeKey';
