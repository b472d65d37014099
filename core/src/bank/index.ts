export * from './bank-file';
export * from './bank-sampler';
