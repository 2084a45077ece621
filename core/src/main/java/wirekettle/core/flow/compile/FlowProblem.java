package wirekettle.core.flow.compile;

/**
 * A problem of a flow, found before it runs.
 *
 * @param stage the stage's id
 * @param field the field, or null
 * @param fillId the fill, or null
 * @param message what is wrong and what to do
 */
public record FlowProblem(String stage, String field, String fillId, String message) {}
