import { workOf } from '../../built.mjs';

export default await workOf('bakeThread');
