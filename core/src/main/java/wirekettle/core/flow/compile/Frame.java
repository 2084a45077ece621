package wirekettle.core.flow.compile;

import wirekettle.core.flow.file.Stage;

/**
 * What every compiled stage has.
 *
 * @param stage the stage as it is written
 * @param before what is in reach at it
 * @param after what is in reach behind it
 * @param lane what happens when it fails, or null
 */
public record Frame(Stage stage, Reach before, Reach after, CompiledLane lane) {}
