import fc from 'fast-check';

// Tests of properties take the same songs each time, so that a failed run tells of the change and not of chance.
// `npm run fuzz` takes others each time and tells the seed of what it finds.
if (process.env['FUZZ'] !== 'yes') fc.configureGlobal({ seed: 1979 });
