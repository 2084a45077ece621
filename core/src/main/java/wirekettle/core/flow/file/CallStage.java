package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.ArrayList;
import java.util.List;
import java.util.function.UnaryOperator;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.fill.Fill;

/**
 * Calls an operation.
 *
 * @param contract the contract's name
 * @param service the service
 * @param port the port
 * @param operation the operation, {@code name#2} for a second one of that name
 * @param endpoint the endpoint's name
 * @param as the variable the reply's body element is bound to
 * @param fills what fills the request
 * @param documents the documents inside fields of its request and reply
 * @param pages how it asks for page after page, null for one call
 * @param delivery how it is called
 * @param undo what reverses a change that was done when its record is rejected later; empty for nothing
 * @param lane what happens when it fails, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record CallStage(
        String id,
        String contract,
        String service,
        String port,
        String operation,
        String endpoint,
        String as,
        List<Fill> fills,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<EmbeddedDocument> documents,
        Paging pages,
        Delivery delivery,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Stage> undo,
        Lane lane)
        implements Stage {
    /** Fills in what may be left out. */
    public CallStage {
        fills = fills == null ? List.of() : List.copyOf(fills);
        documents = documents == null ? List.of() : List.copyOf(documents);
        delivery = delivery == null ? Delivery.DEFAULT : delivery;
        undo = undo == null ? List.of() : List.copyOf(undo);
    }

    /** Calls an operation without documents inside fields and without a lane. */
    public CallStage(
            String id,
            String contract,
            String service,
            String port,
            String operation,
            String endpoint,
            String as,
            List<Fill> fills,
            Delivery delivery) {
        this(id, contract, service, port, operation, endpoint, as, fills, null, null, delivery, null, null);
    }

    @Override
    public CallStage filled(List<Fill> others) {
        return new CallStage(
                id, contract, service, port, operation, endpoint, as, others, documents, pages, delivery, undo, lane);
    }

    /** Returns this stage with other documents inside fields. */
    public CallStage documented(List<EmbeddedDocument> others) {
        return new CallStage(
                id, contract, service, port, operation, endpoint, as, fills, others, pages, delivery, undo, lane);
    }

    /** Returns this stage asking for page after page. */
    public CallStage paged(Paging other) {
        return new CallStage(
                id, contract, service, port, operation, endpoint, as, fills, documents, other, delivery, undo, lane);
    }

    @Override
    public CallStage failing(Lane other) {
        return new CallStage(
                id, contract, service, port, operation, endpoint, as, fills, documents, pages, delivery, undo, other);
    }

    /** Returns this stage with other stages that reverse it. */
    public CallStage undoneBy(List<Stage> others) {
        return new CallStage(
                id, contract, service, port, operation, endpoint, as, fills, documents, pages, delivery, others, lane);
    }

    @Override
    public List<Stage> inside() {
        List<Stage> all = new ArrayList<>(undo);
        all.addAll(lane == null ? List.of() : lane.stages());
        return all;
    }

    @Override
    public Stage mapped(UnaryOperator<Stage> change) {
        return undoneBy(undo.stream().map(change).toList()).failing(Lane.mapped(lane, change));
    }
}
