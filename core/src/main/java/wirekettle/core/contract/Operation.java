package wirekettle.core.contract;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.schema.ElementDecl;

/**
 * One operation of a port.
 *
 * @param name its name
 * @param overload 1 for the first operation of that name, 2 for the next
 * @param style document or rpc
 * @param use literal or encoded
 * @param action the SOAPAction, empty when none is given
 * @param input the request
 * @param output the reply, null for a one-way operation
 * @param faults the faults it declares
 * @param proposedEffect what its name suggests
 * @param documentation its documentation
 * @param kind who sends first and whether the other side answers
 * @param http how it is called by plain HTTP, null for SOAP
 */
public record Operation(
        String name,
        int overload,
        String style,
        String use,
        String action,
        Message input,
        Message output,
        List<Fault> faults,
        Effect proposedEffect,
        String documentation,
        OperationKind kind,
        HttpBinding http) {
    /**
     * A fault an operation declares.
     *
     * @param name the fault's name
     * @param message the element inside the fault's detail
     */
    public record Fault(String name, Message message) {}

    /** Returns every element that can stand at the top of one of its messages. */
    public List<ElementDecl> elements() {
        List<ElementDecl> all = new ArrayList<>(input.headers());
        all.addAll(input.body());
        all.addAll(input.headerFaults());
        if (output != null) {
            all.addAll(output.headers());
            all.addAll(output.body());
        }
        faults.forEach(fault -> all.addAll(fault.message().body()));
        return all;
    }

    /** Returns the name, with {@code #n} when it is overloaded. */
    public String key() {
        return overload == 1 ? name : name + "#" + overload;
    }
}
