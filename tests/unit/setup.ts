import fc from 'fast-check'

/**
 * Random cases are the same in every run, so that a failure is the change's own. Others: `SEED=7 npx vitest run --project unit`;
 * a failure tells its seed.
 */
fc.configureGlobal({ ...fc.readConfigureGlobal(), seed: Number(process.env['SEED'] ?? 1) })
