declare module 'gltf-validator' {
  interface ValidatorReport {
    validatorVersion: string;
    issues: {
      numErrors: number;
      numWarnings: number;
      numInfos: number;
      messages: { code: string; message: string; severity: number; pointer?: string }[];
    };
  }
  export function validateBytes(
    bytes: Uint8Array,
    options?: {
      uri?: string;
      maxIssues?: number;
      writeTimestamp?: boolean;
      externalResourceFunction?: (uri: string) => Promise<Uint8Array>;
    },
  ): Promise<ValidatorReport>;
}
