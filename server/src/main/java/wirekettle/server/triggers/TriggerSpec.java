package wirekettle.server.triggers;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.List;
import java.util.Locale;
import java.util.Objects;

/**
 * What a trigger waits for, and what it does then. What does not belong to its kind is null.
 *
 * @param cron clock: five fields, see {@link wirekettle.core.schedule.Cron}
 * @param everyMinutes clock: minutes between two times, in the place of a cron expression
 * @param zone clock: the zone of the wall clock, as in Europe/Vienna
 * @param days clock: the name of the working days, null for every day
 * @param postponed clock: whether what is due on a day off or after the cut-off is due at the next opening
 * @param overlap what happens when it is due while a run of its flow goes on in its environment
 * @param missed clock: whether a time that passed while no server ran is made up for, once
 * @param folder file: the name of the dataset that is the folder
 * @param pattern file: which names, as in {@code loans-*.csv}; null for every one
 * @param restSeconds file: how long its size and time must not have changed, 1 to 3,600; 10 where null
 * @param marker file: the ending of a second file that says it is complete, as in {@code .done}; null for none
 * @param again file: whether a file with the same content as an earlier one is worked on
 * @param after flow: the id of the flow whose end is waited for
 * @param onlyDone flow: whether only an end without rejected records or records in doubt counts
 * @param path http: where it answers, behind {@code /serve/}, as in {@code test/look-up-institution}; a segment in
 *     braces is a field of what is sent, as in {@code test/loans/{loan_no}}
 * @param open http: whether no key is asked for
 * @param get http: whether it answers GET with its fields in the query, too
 * @param seconds http: how long a caller waits at most, 1 to 600; 30 where null
 * @param atOnce http: how many callers wait at one time, 1 to 2,000; 200 where null. queue: how many messages are
 *     worked on at one time
 * @param kilobytes http: how large a request may be, 1 to 20,000; 1,000 where null. queue: how large a message may be
 * @param headers http: HTTP headers that are fields of what is sent. queue: properties of messages that are
 * @param origins http: the origins whose pages may ask, as in {@code https://desk.example}; none where empty
 * @param memorySeconds http: how long an answer to GET may be given again, 1 to 86,400; null for never
 * @param later http: whether nobody waits: what is sent is taken, and its answer asked for later
 * @param keepHours http: how long answers are kept that may be asked for later, 1 to 720; 24 where null. queue: how
 *     long a message that comes again is known
 * @param soap http: how it answers as an operation of a SOAP service, null where it does not
 * @param page http: the page on which people type what they ask, null for none
 * @param queue queue: where the messages are
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record TriggerSpec(
        String cron,
        Integer everyMinutes,
        String zone,
        String days,
        Boolean postponed,
        Overlap overlap,
        Boolean missed,
        String folder,
        String pattern,
        Integer restSeconds,
        String marker,
        Boolean again,
        Long after,
        Boolean onlyDone,
        String path,
        Boolean open,
        Boolean get,
        Integer seconds,
        Integer atOnce,
        Integer kilobytes,
        List<HeaderField> headers,
        List<String> origins,
        Integer memorySeconds,
        Boolean later,
        Integer keepHours,
        Soap soap,
        AskPage page,
        Queue queue) {
    /**
     * A queue whose messages are records.
     *
     * @param endpoint the endpoint that is its broker
     * @param name the queue
     * @param answers the queue answers are sent to where a message names none (reply-to), null for none
     * @param deliveries how often a message may have been given to somebody until it is rejected, 1 to 1,000; 10 where
     *     null
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Queue(String endpoint, String name, String answers, Integer deliveries) {}

    /** An HTTP header, or a property of a message, that is a field of what is sent. */
    public record HeaderField(String header, String field) {}

    /**
     * An operation of a SOAP service.
     *
     * @param address where the service answers, behind {@code /serve/}: operations of one address are one service; the
     *     path of the flow where null
     * @param contract the contract a port of which is implemented, null for a service description made of the flows
     * @param service the contract's service, null for the first that has the port
     * @param port the contract's port, null for the first that has the operation
     * @param operation the operation; where the description is made of the flows, what it is called there, and null for
     *     the flow's name
     * @param token whether a user name token is taken for a key: its name the key's, its password the key itself
     * @param byKey whether a record whose business key was there before gets the answer kept for that
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Soap(
            String address,
            String contract,
            String service,
            String port,
            String operation,
            Boolean token,
            Boolean byKey) {
        /** Tells whether the service description is made of the flows. */
        public boolean own() {
            return contract == null;
        }

        /** Tells whether both may answer at one address: operations of one port, or flows described together. */
        public boolean together(Soap other) {
            return Objects.equals(contract, other.contract)
                    && Objects.equals(service, other.service)
                    && Objects.equals(port, other.port);
        }
    }

    /**
     * A page on which people ask: a field for each of the first level of what is sent.
     *
     * @param title what stands above it; the flow's name where null
     * @param note what people are told there
     * @param fields what is said of fields; those not named are shown by their own names
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record AskPage(String title, String note, List<AskField> fields) {
        /** Fills in what may be left out. */
        public AskPage {
            fields = fields == null ? List.of() : List.copyOf(fields);
        }
    }

    /**
     * A field of a page.
     *
     * @param name the field
     * @param label what it is called on the page
     * @param help what people are told beside it
     * @param preset what stands in it at first
     * @param codes a code table whose codes may be picked
     * @param dataset a dataset whose values may be picked, in the place of a code table
     * @param column the dataset's column that holds them
     * @param shown the dataset's column that is shown for them, null for the same
     * @param hidden whether it is not shown: the preset is sent
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record AskField(
            String name,
            String label,
            String help,
            String preset,
            String codes,
            String dataset,
            String column,
            String shown,
            Boolean hidden) {}

    /** Returns where it answers as SOAP, null where it does not. */
    public String soapAddress() {
        return soap == null ? null : soap.address() == null ? path : soap.address();
    }

    /** Fills in what may be left out. */
    public TriggerSpec {
        headers = headers == null || headers.isEmpty() ? null : List.copyOf(headers);
        origins = origins == null || origins.isEmpty() ? null : List.copyOf(origins);
    }

    /** What happens when a trigger is due while a run of its flow goes on. */
    public enum Overlap {
        /** It starts when that has ended, once. */
        WAIT,
        /** It is left out. */
        SKIP,
        /** It starts beside it. */
        BESIDE;

        /** Returns the word in the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** Returns what happens when it is due while a run goes on: it waits where nothing is said. */
    Overlap overlapping() {
        return overlap == null ? Overlap.WAIT : overlap;
    }
}
