package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import java.util.List;
import java.util.function.UnaryOperator;
import wirekettle.core.fill.Fill;

/**
 * One stage of a flow, as it is written. A verb is a record of its own that is named in the list below; what it does is
 * said by its compiler and its step.
 */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "verb")
@JsonSubTypes({
    @JsonSubTypes.Type(value = ReadStage.class, name = "Read"),
    @JsonSubTypes.Type(value = FilterStage.class, name = "Filter"),
    @JsonSubTypes.Type(value = MapStage.class, name = "Map"),
    @JsonSubTypes.Type(value = LookUpStage.class, name = "Look up"),
    @JsonSubTypes.Type(value = CallStage.class, name = "Call"),
    @JsonSubTypes.Type(value = SplitStage.class, name = "Split"),
    @JsonSubTypes.Type(value = BatchStage.class, name = "Batch"),
    @JsonSubTypes.Type(value = BranchStage.class, name = "Branch"),
    @JsonSubTypes.Type(value = WriteStage.class, name = "Write"),
    @JsonSubTypes.Type(value = AnswerStage.class, name = "Answer"),
    @JsonSubTypes.Type(value = NoteStage.class, name = "Note")
})
@JsonInclude(JsonInclude.Include.NON_NULL)
public interface Stage {
    /** Returns the stage's id, unique in its flow. */
    String id();

    /** Returns the variable it makes, without the dollar sign, or null. */
    default String as() {
        return null;
    }

    /** Returns what fills its message or record. */
    default List<Fill> fills() {
        return List.of();
    }

    /** Returns this stage with other fills; a stage that has none stays as it is. */
    default Stage filled(List<Fill> others) {
        return this;
    }

    /** Returns the name of the dataset it reads or writes, or null. */
    default String dataset() {
        return null;
    }

    /** Returns what happens when it fails, or null. */
    default Lane lane() {
        return null;
    }

    /** Returns the stages within it, those of its failure lane among them. */
    default List<Stage> inside() {
        return lane() == null ? List.of() : lane().stages();
    }

    /** Returns this stage with another failure lane; a stage that cannot fail stays as it is. */
    default Stage failing(Lane other) {
        return this;
    }

    /** Returns this stage with every stage within it changed, those of its failure lane among them. */
    default Stage mapped(UnaryOperator<Stage> change) {
        return failing(Lane.mapped(lane(), change));
    }
}
