package wirekettle.core.contract;

import java.util.List;

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
        String documentation) {
    /**
     * A fault an operation declares.
     *
     * @param name the fault's name
     * @param message the element inside the fault's detail
     */
    public record Fault(String name, Message message) {}

    /** Returns the name, with {@code #n} when it is overloaded. */
    public String key() {
        return overload == 1 ? name : name + "#" + overload;
    }
}
