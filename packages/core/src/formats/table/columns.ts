// What the readers of tables know of columns.

/** Names of columns that hold degrees of longitude, in lower case. */
export const longitudes = ['lon', 'lng', 'long', 'longitude', 'x'];
/** Names of columns that hold degrees of latitude, in lower case. */
export const latitudes = ['lat', 'latitude', 'y'];

/** A number with a decimal point; one with a leading zero, as in `007`, is a text. */
export const withPoint = /^[-+]?((0|[1-9]\d*)(\.\d+)?|\.\d+)([eE][-+]?\d+)?$/;
/** A number with a decimal comma. */
export const withComma = /^[-+]?((0|[1-9]\d*)(,\d+)?|,\d+)([eE][-+]?\d+)?$/;
