package wirekettle.core.contract;

import java.util.List;
import wirekettle.core.value.Name;

/**
 * How an operation is called by plain HTTP (WSDL 1.1, 4; OpenAPI 3.1).
 *
 * @param verb the HTTP method; GET or POST in a WSDL
 * @param location what is put behind the port's address; parts of it may stand for fields
 * @param input how the parts travel
 * @param xmlReply whether the answer is XML; otherwise it is text, or JSON where it is described
 * @param described where the fields travel, null for a binding of a WSDL
 */
public record HttpBinding(String verb, String location, Input input, boolean xmlReply, Described described) {
    /** A binding of a WSDL. */
    public HttpBinding(String verb, String location, Input input, boolean xmlReply) {
        this(verb, location, input, xmlReply, null);
    }

    /**
     * How an operation described for HTTP travels: its message is an element whose children are the parameters and,
     * last, the {@code body}.
     *
     * @param places where each parameter goes
     * @param bodyType the content type of the body, null for none
     * @param replyType the content type of the reply, null for none
     * @param bodyRoot the name an XML body begins with, null where the body is none
     */
    public record Described(List<Place> places, String bodyType, String replyType, Name bodyRoot) {
        /** Tells whether a content type is JSON. */
        public static boolean json(String type) {
            return type != null && type.toLowerCase(java.util.Locale.ROOT).contains("json");
        }

        /** Tells whether a content type is XML. */
        public static boolean xml(String type) {
            return type != null && type.toLowerCase(java.util.Locale.ROOT).contains("xml");
        }
    }

    /**
     * Where a parameter goes.
     *
     * @param field the name of its element
     * @param in path, query, header or cookie
     * @param name its name on the wire
     */
    public record Place(String field, String in, String name) {}

    /** How the parts of a request travel. */
    public enum Input {
        /** As name and value pairs behind a question mark. */
        QUERY,
        /** In places marked {@code (part)} of the location. */
        PATH,
        /** As name and value pairs in the body. */
        FORM,
        /** As an XML document in the body. */
        XML,
        /** As the description says, each field in its place. */
        DESCRIBED
    }
}
