export * from './built-in';
export * from './recipe';
