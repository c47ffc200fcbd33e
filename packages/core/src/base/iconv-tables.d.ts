declare module 'iconv-lite/encodings/sbcs-data-generated.js' {
  const tables: Readonly<Record<string, string | { readonly chars: string }>>;
  export default tables;
}
