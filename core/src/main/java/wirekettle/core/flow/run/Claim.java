package wirekettle.core.flow.run;

/**
 * Says that something that changes data may leave from now on, with all that its record needs to go on after a crash.
 *
 * @param ordinal the record's place in the input, from 1
 * @param fingerprint a hash of the input
 * @param effect what may leave
 * @param made what was made so far that could not be made again the same: {@link Replay#text}
 * @param last the last record that needs this to go on, where a batch is kept under the one that leads it; else null
 */
public record Claim(long ordinal, String fingerprint, Effect effect, String made, Long last) {}
