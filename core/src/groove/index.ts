export * from './built-in';
export * from './lift';
export * from './lines';
