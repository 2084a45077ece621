package wirekettle.core.flow.compile;

import java.util.List;

/**
 * Stages that are run one after the other.
 *
 * @param steps the compiled stages
 * @param after what is in reach behind the last
 */
public record CompiledBlock(List<Compiled> steps, Reach after) {}
