package wirekettle.server.publish;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.server.flows.FlowContext;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Knows and changes which revision of a flow is in force where. */
@ApplicationScoped
public class Publications {
    @Inject
    PublicationMapper mapper;

    @Inject
    FlowMapper flows;

    @Inject
    FlowContext context;

    /** Returns what of a flow is in force in an environment, or null. */
    public Publication inForce(long flow, String environment) {
        PublicationMapper.Row row = mapper.newest(flow, environment);
        return row == null || row.revision() == null ? null : row.publication();
    }

    /** Returns all that is in force, by flow and environment. */
    public List<Publication> inForce() {
        return mapper.inForce(0).stream()
                .map(PublicationMapper.Row::publication)
                .toList();
    }

    /** Returns what of a flow is in force, by environment. */
    public List<Publication> inForce(long flow) {
        return mapper.inForce(flow).stream()
                .map(PublicationMapper.Row::publication)
                .toList();
    }

    /** Returns the file of a revision that is in force. */
    public FlowFile file(Publication its) {
        return FlowFile.parse(flows.file(its.flowId(), its.revision()));
    }

    /**
     * Puts a revision into force.
     *
     * @param seen the id of what was in force when the person looked, 0 for nothing
     */
    @Transactional
    public Publication publish(long flow, String environment, int revision, String note, long seen, String by) {
        String text = flows.file(flow, revision);
        if (text == null) {
            throw Problem.missing("revision");
        }
        FlowFile file = FlowFile.parse(text);
        Publication before = before(flow, environment, seen);
        long id = mapper.add(
                flow,
                environment,
                revision,
                Json.write(context.contractRevisions(file)),
                Json.write(used(file, environment)),
                note,
                before == null ? null : before.id(),
                by);
        return mapper.byId(id).publication();
    }

    /** Returns the named values a flow uses, as they are in an environment; those it lacks are left out. */
    Map<String, String> used(FlowFile file, String environment) {
        Map<String, String> values = new LinkedHashMap<>(context.values(environment));
        values.keySet().retainAll(file.values());
        return values;
    }

    private Publication before(long flow, String environment, long seen) {
        mapper.lock(flow);
        Publication before = inForce(flow, environment);
        long now = before == null ? 0 : before.id();
        if (now != seen) {
            PublicationMapper.Row newest = mapper.newest(flow, environment);
            if (newest == null) {
                throw new Problem(409, "not-in-force", "Nothing of this flow is in force in " + environment + ".");
            }
            throw Edits.meanwhile("publication", newest.publishedBy(), (int) (long) newest.id(), (int) seen)
                    .with("inForce", now);
        }
        return before;
    }

    /** Puts back into force what was before, or nothing where there was nothing. */
    @Transactional
    public Publication takeBack(long flow, String environment, String note, long seen, String by) {
        Publication now = before(flow, environment, seen);
        if (now == null) {
            throw new Problem(409, "not-in-force", "Nothing of this flow is in force in " + environment + ".");
        }
        PublicationMapper.Row earlier = now.beforeId() == null ? null : mapper.byId(now.beforeId());
        long id = mapper.add(
                flow,
                environment,
                earlier == null ? null : earlier.revision(),
                earlier == null ? "{}" : earlier.contracts(),
                earlier == null ? "{}" : earlier.values(),
                note,
                earlier == null ? null : earlier.beforeId(),
                by);
        return mapper.byId(id).publication();
    }

    /** Takes a flow out of force in an environment. */
    @Transactional
    public Publication end(long flow, String environment, String note, long seen, String by) {
        Publication now = before(flow, environment, seen);
        if (now == null) {
            throw new Problem(409, "not-in-force", "Nothing of this flow is in force in " + environment + ".");
        }
        return mapper.byId(mapper.add(flow, environment, null, "{}", "{}", note, now.id(), by))
                .publication();
    }
}
