/** Whether a file is a picture that can be an icon. */
export const isPicture = ({ name, type }: File): boolean =>
  /^image\/(svg\+xml|png|jpeg|webp|gif)$/.test(type) || /\.(svg|png|jpe?g|webp|gif)$/i.test(name);
