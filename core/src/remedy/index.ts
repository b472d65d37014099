export * from './remedy';
export * from './report';
