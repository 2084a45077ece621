package wirekettle.core.flow.compile;

/**
 * Something that keeps a flow from running well.
 *
 * @param stage the stage's id
 * @param field the field, or null
 * @param fillId the fill, or null
 * @param message what is wrong and what to do
 */
public record FlowProblem(String stage, String field, String fillId, String message) {}
