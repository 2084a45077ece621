package wirekettle.server.triggers;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.List;
import wirekettle.core.contract.Contract;
import wirekettle.core.value.Layout;
import wirekettle.server.codes.CodeTableMapper;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.web.Problem;

/** Checks where and how a flow answers callers. */
@ApplicationScoped
public class CallerChecks {
    private static final int MOST_SECONDS = 600;
    private static final int MOST_CALLERS = 2_000;
    private static final int MOST_MEMORY = 86_400;
    private static final int MOST_HOURS = 720;
    private static final int MOST_KILOBYTES = 20_000;
    private static final int MOST_TITLE = 200;
    private static final int MOST_NOTE = 4_000;

    @Inject
    TriggerMapper mapper;

    @Inject
    ContractStore contracts;

    @Inject
    CodeTableMapper codes;

    @Inject
    DatasetStore datasets;

    /**
     * Checks what a trigger says of callers.
     *
     * @param id the trigger, 0 for a new one
     * @param flow its flow's name
     * @throws Problem with what is wrong
     */
    public void check(long id, String flow, TriggerSpec spec) {
        CallerPath path = CallerPath.of(spec.path());
        for (TriggerMapper.Row other : mapper.ofKind("http")) {
            if (other.id() != id && path.same(CallerPath.of(Triggers.spec(other).path()))) {
                throw new Problem(
                        409,
                        "path-taken",
                        "“" + other.flowName() + "” answers at " + spec.path() + ": choose another path.");
            }
        }
        within("seconds", spec.seconds(), MOST_SECONDS);
        within("callers at once", spec.atOnce(), MOST_CALLERS);
        within("kilobytes", spec.kilobytes(), MOST_KILOBYTES);
        within("seconds an answer is remembered", spec.memorySeconds(), MOST_MEMORY);
        within("hours an answer is kept", spec.keepHours(), MOST_HOURS);
        for (TriggerSpec.HeaderField each :
                spec.headers() == null ? List.<TriggerSpec.HeaderField>of() : spec.headers()) {
            if (!String.valueOf(each.header()).matches("[A-Za-z0-9!#$%&'*+.^_`|~-]{1,80}")
                    || each.field() == null
                    || each.field().isBlank()) {
                throw new Problem(400, "bad-header", "A header has a name, as in X-Tenant, and the field it is.");
            }
        }
        for (String origin : spec.origins() == null ? List.<String>of() : spec.origins()) {
            if (!origin.matches("https?://[A-Za-z0-9.-]+(:\\d{1,5})?")) {
                throw new Problem(
                        400,
                        "bad-origin",
                        "“" + origin + "” is no origin: write it as in https://desk.example, without a path.");
            }
        }
        if (spec.soap() != null) {
            soap(id, flow, spec);
        }
        if (spec.page() != null) {
            page(path, spec.page());
        }
    }

    private void soap(long id, String flow, TriggerSpec spec) {
        TriggerSpec.Soap soap = spec.soap();
        CallerPath address = CallerPath.of(spec.soapAddress());
        if (!address.fields().isEmpty()) {
            throw new Problem(
                    400, "bad-address", "A SOAP address has no fields: give it one beside the path, as in test/loans.");
        }
        if (!soap.own()) {
            offered(soap);
        } else if (soap.operation() != null && !soap.operation().matches("[\\p{L}_][\\p{L}\\p{Nd}_.-]{0,99}")) {
            throw new Problem(400, "bad-operation", "An operation's name has letters, digits, dots and dashes.");
        }
        String name = operation(soap, flow);
        for (TriggerMapper.Row other : mapper.ofKind("http")) {
            TriggerSpec its = Triggers.spec(other);
            if (other.id() == id || !spec.soapAddress().equals(its.soapAddress())) {
                continue;
            }
            if (!soap.together(its.soap())) {
                throw new Problem(
                        409,
                        "address-taken",
                        "“" + other.flowName() + "” answers at " + spec.soapAddress()
                                + " by another contract or port: choose another address.");
            }
            if (name.equals(operation(its.soap(), other.flowName()))) {
                throw new Problem(
                        409,
                        "operation-taken",
                        "“" + other.flowName() + "” answers " + name + " at " + spec.soapAddress() + " already.");
            }
        }
    }

    private void offered(TriggerSpec.Soap soap) {
        Contract contract = contracts.byName(soap.contract());
        if (contract == null) {
            throw new Problem(400, "no-contract", "There is no contract “" + soap.contract() + "”.");
        }
        Contract.Offered offered = contract.operation(soap.service(), soap.port(), String.valueOf(soap.operation()))
                .orElseThrow(() -> new Problem(
                        400,
                        "no-operation",
                        "“" + soap.contract() + "” has no operation " + soap.operation() + " at that port."));
        if (offered.port().soapVersion() == null) {
            throw new Problem(
                    400, "not-soap", "The port " + offered.port().name() + " does not speak SOAP: choose another.");
        }
        if ("encoded".equals(offered.operation().use())) {
            throw new Problem(
                    400,
                    "encoded",
                    "Messages in SOAP encoding can be called here and not answered: offer it by a description made of"
                            + " the flow.");
        }
    }

    /** Returns what an operation is called where its flow answers. */
    public static String operation(TriggerSpec.Soap soap, String flow) {
        if (soap.operation() != null) {
            return soap.operation();
        }
        StringBuilder name = new StringBuilder();
        for (String word : flow.replaceFirst(" as (JSON|SOAP)$", "").split("[^\\p{L}\\p{Nd}]+")) {
            if (!word.isEmpty()) {
                name.append(Character.toUpperCase(word.charAt(0))).append(word.substring(1));
            }
        }
        return name.isEmpty() || !Character.isLetter(name.charAt(0)) ? "Do" + name : name.toString();
    }

    private void page(CallerPath path, TriggerSpec.AskPage page) {
        if (!path.fields().isEmpty()) {
            throw new Problem(400, "bad-page", "A page needs a path without fields: people type all of them.");
        }
        if (page.title() != null && page.title().length() > MOST_TITLE
                || page.note() != null && page.note().length() > MOST_NOTE) {
            throw new Problem(
                    400, "too-long", "A title has at most " + MOST_TITLE + " characters, a note " + MOST_NOTE + ".");
        }
        for (TriggerSpec.AskField each : page.fields()) {
            if (each.codes() != null && codes.byName(each.codes()) == null) {
                throw new Problem(400, "no-codes", "There is no code table “" + each.codes() + "”.");
            }
            if (each.dataset() != null) {
                DatasetMapper.Row row = datasets.named(each.dataset());
                column(row, each.column());
                if (each.shown() != null) {
                    column(row, each.shown());
                }
            }
        }
    }

    private static void column(DatasetMapper.Row row, String name) {
        Layout layout = DatasetStore.spec(row).layout();
        if (name == null
                || layout == null
                || layout.columns().stream().noneMatch(each -> each.name().equals(name))) {
            throw new Problem(
                    400,
                    "no-column",
                    "“" + row.name() + "” has no column “" + (name == null ? "" : name)
                            + "”: say which holds the values to pick.");
        }
    }

    static void within(String what, Integer value, int most) {
        if (value != null && (value < 1 || value > most)) {
            throw new Problem(400, "out-of-range", "There are 1 to " + most + " " + what + ".");
        }
    }
}
