package wirekettle.server.serve;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.core.type.TypeReference;
import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.contract.Contract;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.offer.Offering;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.environments.Environment;
import wirekettle.server.environments.Environments;
import wirekettle.server.flows.FlowContext;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.publish.Publications;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.signin.Tokens;
import wirekettle.server.triggers.CallerChecks;
import wirekettle.server.triggers.TriggerMapper;
import wirekettle.server.triggers.TriggerSpec;
import wirekettle.server.triggers.Triggers;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Operations offered to callers in one action. */
@Path("/api")
public class OfferResource {
    private static final int AT_ONCE = 16;
    private static final String FIRST_KEY = "first";

    @Inject
    ContractStore contracts;

    @Inject
    Environments environments;

    @Inject
    Endpoints endpoints;

    @Inject
    FlowContext context;

    @Inject
    FlowMapper flows;

    @Inject
    Publications publications;

    @Inject
    TriggerMapper triggers;

    @Inject
    CallerKeyMapper keys;

    @Inject
    CallerChecks callers;

    @Inject
    CurrentPerson current;

    /**
     * An operation that is to be offered.
     *
     * @param environment where it answers; what is live is published by a person who compares
     * @param name the flow's name, null for one made of the operation's
     * @param soap whether it is offered as SOAP, too: as an operation of the same port, at an address of ours
     * @param wholePort whether all operations of its port are offered, a flow each
     */
    @Schema(
            name = "NewOffer",
            requiredProperties = {"contract", "operation", "environment"})
    public record Wanted(
            String contract,
            String service,
            String port,
            String operation,
            String environment,
            String name,
            Boolean soap,
            Boolean wholePort) {}

    /**
     * An operation that is offered.
     *
     * @param flow the flow that answers
     * @param trigger what makes it answer; null where the flow is to be published first
     * @param path where, behind the server's address
     * @param soap where it answers as SOAP, null where it does not
     * @param key a first key, told this once
     * @param operations how many were offered together
     */
    @Schema(
            name = "Offer",
            requiredProperties = {"flow", "operations"})
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Made(long flow, Long trigger, String path, String soap, String key, int operations) {
        @Override
        public String toString() {
            return "Made[" + flow + "]";
        }
    }

    /**
     * Offers an operation: a flow whose input and answer mirror its messages is made, published where that is not live,
     * and answers at a path of its own. As SOAP it stands in front of the real service, and may be changed like any
     * flow.
     */
    @POST
    @Needs(Right.BUILD)
    @Path("offers")
    @Transactional
    public Made offer(Wanted given) {
        Environment environment = environments.named(given.environment());
        current.mustRunIn(environment.name());
        Contract contract = given.contract() == null ? null : contracts.byName(given.contract());
        if (contract == null) {
            throw Problem.missing("contract");
        }
        Contract.Offered offered = contract.operation(given.service(), given.port(), given.operation())
                .orElseThrow(() -> Problem.missing("operation"));
        boolean whole = Boolean.TRUE.equals(given.wholePort());
        List<Contract.Offered> all = !whole
                ? List.of(offered)
                : offered.port().operations().stream()
                        .map(each -> new Contract.Offered(offered.service(), offered.port(), each))
                        .toList();
        String key = Tokens.random();
        Made first = null;
        for (Contract.Offered each : all) {
            Made made = offer(given, environment, contract, each, key, all.size());
            boolean asked = each.operation().key().equals(given.operation());
            first = first == null || asked ? made : first;
        }
        return first;
    }

    private Made offer(
            Wanted given,
            Environment environment,
            Contract contract,
            Contract.Offered offered,
            String key,
            int together) {
        boolean soap = Boolean.TRUE.equals(given.soap());
        boolean named = given.name() != null && !given.name().isBlank() && together == 1;
        String name = Edits.name(
                "A flow",
                named ? given.name() : offered.operation().key().replace('#', ' ') + (soap ? " as SOAP" : " as JSON"));
        Edits.free("flow", name, flows.byName(name));
        boolean reads = contracts.effect(given.contract(), offered.operation()).equals("reads");
        Delivery delivery = Delivery.of(reads ? Delivery.Effect.READS : Delivery.Effect.CHANGES, AT_ONCE);
        FlowFile file = Offering.of(name, given.contract(), contract, offered, delivery);
        CompiledFlow flow = context.compile(file);
        if (!flow.runnable()) {
            String why = flow.problems().isEmpty()
                    ? "a stage is not finished"
                    : flow.problems().get(0).message();
            throw new Problem(
                    422, "not-offered", offered.operation().key() + " cannot be offered as it is: " + why + ".");
        }
        if (!offered.port().address().isBlank() && !environment.live()) {
            endpoints.addressUnlessSet(
                    given.contract(), environment.name(), offered.port().address());
        }
        long id = flows.add(name, current.name());
        flows.keep(id, 1, file.text(), current.name());
        if (environment.live()) {
            return new Made(id, null, null, null, null, together);
        }
        publications.publish(id, environment.name(), 1, "offered", 0, current.name());
        String path = path(environment.name(), name);
        Map<String, Object> spec = new HashMap<>(Map.of("path", path, "get", reads));
        String address = words(environment.name()) + "/" + words(given.contract()) + "/"
                + words(offered.port().name());
        if (soap) {
            spec.put(
                    "soap",
                    new TriggerSpec.Soap(
                            address,
                            given.contract(),
                            offered.service().name(),
                            offered.port().name(),
                            offered.operation().key(),
                            null,
                            null));
        }
        TriggerSpec checked = Json.read(Json.write(spec), new TypeReference<>() {});
        callers.check(0, name, checked);
        long trigger = triggers.add(id, environment.name(), "http", Json.write(checked), true, current.name());
        keys.add(trigger, FIRST_KEY, Tokens.hash(key), null, null, current.name());
        return new Made(id, trigger, "/serve/" + path, soap ? "/serve/" + address : null, key, together);
    }

    /** Returns a path nothing answers at: {@code test/look-up-institution}. */
    private String path(String environment, String name) {
        String wanted = words(environment) + "/" + words(name.replaceFirst(" as (JSON|SOAP)$", ""));
        String path = wanted;
        Set<String> taken = triggers.ofKind("http").stream()
                .map(row -> Triggers.spec(row).path())
                .collect(Collectors.toSet());
        for (int n = 2; taken.contains(path); n++) {
            path = wanted + "-" + n;
        }
        return path;
    }

    private static String words(String name) {
        String plain = name.replaceAll("(?<=[a-z0-9])(?=[A-Z])", "-")
                .toLowerCase(java.util.Locale.ROOT)
                .replaceAll("[^a-z0-9]+", "-")
                .replaceAll("^-+|-+$", "");
        return plain.isEmpty() ? "flow" : plain.substring(0, Math.min(50, plain.length()));
    }
}
