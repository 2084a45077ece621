package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;

/**
 * Words for the next person.
 *
 * @param text the words
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record NoteStage(String id, String text) implements Stage {}
