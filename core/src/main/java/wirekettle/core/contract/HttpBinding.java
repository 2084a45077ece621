package wirekettle.core.contract;

/**
 * How an operation is called by plain HTTP (WSDL 1.1, 4).
 *
 * @param verb GET or POST
 * @param location what is put behind the port's address
 * @param input how the parts travel
 * @param xmlReply whether the answer is XML; otherwise it is text
 */
public record HttpBinding(String verb, String location, Input input, boolean xmlReply) {
    /** How the parts of a request travel. */
    public enum Input {
        /** As name and value pairs behind a question mark. */
        QUERY,
        /** In places marked {@code (part)} of the location. */
        PATH,
        /** As name and value pairs in the body. */
        FORM,
        /** As an XML document in the body. */
        XML
    }
}
