export * from './offsets';
