package wirekettle.core.flow.run;

import java.util.List;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * Why a record failed at a stage.
 *
 * @param failureClass what kind of failure it is
 * @param cause a short label, the same for failures of one kind
 * @param message the sentence
 * @param stage the stage it failed at
 * @param blame the fill or condition to blame, or null
 * @param field the field to blame, empty when there is none
 * @param value the value to blame, empty when there is none
 * @param status the HTTP status, 0 when none was seen
 * @param attempts how often it was tried
 * @param fault what the service said, or null
 * @param doubtful whether something that changes data may have taken effect
 */
public record Failure(
        FailureClass failureClass,
        String cause,
        String message,
        String stage,
        String blame,
        String field,
        String value,
        int status,
        int attempts,
        Node fault,
        boolean doubtful) {
    private static final List<String> MAPPING = List.of("conversion", "expression", "lookup", "document", "file");

    /** Returns the failure of a stage at which this program itself went wrong. */
    static Failure internal(String stage) {
        return of(
                FailureClass.INTERNAL,
                "this program failed",
                "something went wrong in this program; it is in its log",
                stage);
    }

    /** Returns a plain failure of a stage. */
    static Failure of(FailureClass failureClass, String cause, String message, String stage) {
        return new Failure(failureClass, cause, message, stage, null, "", "", 0, 0, null, false);
    }

    /** Returns the failure of a mapping that has problems. */
    static Failure of(List<MappingProblem> problems, String stage) {
        MappingProblem first = problems.get(0);
        StringBuilder all = new StringBuilder(first.sentence());
        problems.stream().skip(1).limit(4).forEach(p -> all.append("; ").append(p.sentence()));
        return new Failure(
                MAPPING.contains(first.code()) ? FailureClass.MAPPING : FailureClass.VALIDATION,
                first.group(),
                all.toString(),
                stage,
                first.fillId() == null ? first.field() : first.fillId(),
                first.shortField(),
                first.value(),
                0,
                0,
                null,
                false);
    }

    /** Returns this failure with a fill or condition to blame. */
    Failure blaming(String other) {
        return new Failure(failureClass, cause, message, stage, other, field, value, status, attempts, fault, doubtful);
    }

    /** Returns this failure with another sentence. */
    Failure telling(String other) {
        return new Failure(failureClass, cause, other, stage, blame, field, value, status, attempts, fault, doubtful);
    }

    /** Returns this failure as one after which nobody knows whether data was changed. */
    Failure inDoubt() {
        return new Failure(failureClass, cause, message, stage, blame, field, value, status, attempts, fault, true);
    }

    /** Returns this failure with what a call saw. */
    Failure of(int otherStatus, int tries, Node said) {
        return new Failure(
                failureClass, cause, message, stage, blame, field, value, otherStatus, tries, said, doubtful);
    }

    /** Returns the failure as expressions see it. */
    Node node() {
        return Node.build(Name.of("failure"))
                .add("class", failureClass.word())
                .add("cause", cause)
                .add("message", message)
                .add("stage", stage)
                .add("field", field)
                .add("value", value)
                .add("status", status == 0 ? "" : Integer.toString(status))
                .add("attempts", Integer.toString(attempts))
                .done();
    }
}
