declare module 'gltf-validator' {
  interface Report {
    readonly issues: {
      readonly numErrors: number;
      readonly numWarnings: number;
      readonly messages: readonly {
        readonly code: string;
        readonly message: string;
        readonly severity: number;
        readonly pointer: string;
      }[];
    };
  }
  const validator: {
    validateBytes(
      bytes: Uint8Array,
      options?: { readonly maxIssues?: number; readonly ignoredIssues?: readonly string[] },
    ): Promise<Report>;
  };
  export default validator;
}
