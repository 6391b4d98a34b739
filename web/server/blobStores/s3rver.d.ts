declare module 's3rver' {
  /** An S3 server on loopback, as far as the tests use it. */
  export default class S3rver {
    constructor(options: {
      port: number;
      address: string;
      silent: boolean;
      directory: string;
      configureBuckets: { name: string; configs: string[] }[];
    });
    run(): Promise<import('node:net').AddressInfo>;
    close(): Promise<void>;
  }
}
