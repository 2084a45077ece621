package wirekettle.server.runs;

/**
 * A run came to its end, or rests until somebody lets it go on.
 *
 * @param run the run
 * @param state its state
 */
public record RunEnded(long run, String state) {}
