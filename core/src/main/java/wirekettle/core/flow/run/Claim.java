package wirekettle.core.flow.run;

/**
 * Says that something that changes data may leave from now on, with all that its record needs to go on after a crash.
 *
 * @param ordinal the record's place in the input, from 1
 * @param fingerprint a hash of the input
 * @param stage the stage
 * @param number counts the effects of the record at that stage, from 1
 * @param made what was made so far that could not be made again the same: {@link Replay#text()}
 */
public record Claim(long ordinal, String fingerprint, String stage, int number, String made) {}
