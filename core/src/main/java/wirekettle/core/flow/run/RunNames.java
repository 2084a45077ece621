package wirekettle.core.flow.run;

/**
 * What a run is called in {@code $run}.
 *
 * @param run its id
 * @param source the name of the file or table read
 */
public record RunNames(String run, String source) {}
