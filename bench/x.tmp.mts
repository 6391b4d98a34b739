import { matchLinks } from './links.ts';
for (let i = 0; i < 6; i++) console.log(Math.round(matchLinks().ms));
