/** Made from `sheet.schema.json` when the package is built. */
export interface FormError {
  readonly keyword: string;
  readonly instancePath: string;
  readonly schemaPath: string;
  readonly params: Readonly<Record<string, unknown>>;
  readonly message?: string;
  readonly parentSchema?: Readonly<Record<string, unknown>>;
  readonly data?: unknown;
}
export const validate: {
  (sheet: unknown): boolean;
  errors: FormError[] | null;
};
