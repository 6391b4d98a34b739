import { generator } from './damage.ts';

/** Choices by lot: the same seed gives the same ones. */
export class Lot {
  private readonly random: () => number;

  constructor(seed: number) {
    this.random = generator(seed);
  }

  chance(share: number): boolean {
    return this.random() < share;
  }

  below(count: number): number {
    return Math.floor(this.random() * count);
  }

  pick<T>(list: readonly T[]): T {
    return list[this.below(list.length)];
  }

  /** Two digits behind the point, as people type them. */
  between(least: number, most: number): number {
    return Math.round((least + this.random() * (most - least)) * 100) / 100;
  }
}
