import { workOf } from '../../core/src/built.mjs';

export default await workOf('batchThread');
