/** The time zones there are, UTC first. */
export const ZONES: string[] = [
  'UTC',
  ...Intl.supportedValuesOf('timeZone').filter((zone) => zone !== 'UTC'),
];
