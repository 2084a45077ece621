package wirekettle.server.triggers;

import com.fasterxml.jackson.core.type.TypeReference;
import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.HeaderParam;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.time.DateTimeException;
import java.time.Instant;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Json;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Working days: days off and cut-offs that clocks keep to. */
@Path("/api/working-days")
public class WorkingDaysResource {
    @Inject
    WorkingDaysMapper mapper;

    @Inject
    TriggerMapper all;

    @Inject
    Clock clock;

    @Inject
    CurrentPerson current;

    /**
     * Working days.
     *
     * @param weekdaysOff numbers of the days of every week that are off, 1 is Monday
     * @param datesOff single days off, as 2026-12-08
     * @param opens when a day begins, as 06:00
     * @param cutOff when a day ends, null for midnight
     */
    @Schema(
            name = "WorkingDays",
            requiredProperties = {"id", "name", "weekdaysOff", "datesOff", "opens", "version", "changedAt", "changedBy"
            })
    public record View(
            Long id,
            String name,
            List<Integer> weekdaysOff,
            List<String> datesOff,
            String opens,
            String cutOff,
            Integer version,
            Instant changedAt,
            String changedBy) {
        static View of(WorkingDaysMapper.Row row) {
            return new View(
                    row.id(),
                    row.name(),
                    Json.read(row.weekdaysOff(), new TypeReference<>() {}),
                    Json.read(row.datesOff(), new TypeReference<>() {}),
                    row.opens(),
                    row.cutOff(),
                    row.version(),
                    row.changedAt(),
                    row.changedBy());
        }
    }

    /** Working days as they are wanted. */
    @Schema(name = "NewWorkingDays")
    public record Wanted(String name, List<Integer> weekdaysOff, List<String> datesOff, String opens, String cutOff) {
        private WorkingDaysMapper.Row row() {
            return new WorkingDaysMapper.Row(
                    null,
                    name,
                    Json.write(weekdaysOff == null ? List.of() : weekdaysOff),
                    Json.write(datesOff == null ? List.of() : datesOff),
                    opens == null || opens.isBlank() ? "00:00" : opens.strip(),
                    cutOff == null || cutOff.isBlank() ? null : cutOff.strip(),
                    null,
                    null,
                    null,
                    null);
        }
    }

    private static WorkingDaysMapper.Row checked(Wanted given) {
        WorkingDaysMapper.Row row = given.row();
        try {
            Triggers.workingDays(row);
            return row;
        } catch (DateTimeException e) {
            throw new Problem(
                    400,
                    "bad-days",
                    "Days of the week are 1 to 7, dates are written 2026-12-08, times 06:00. " + e.getMessage() + ".");
        } catch (IllegalArgumentException e) {
            throw new Problem(400, "bad-days", Triggers.sentence(e.getMessage()));
        }
    }

    /** Returns working days by name; sort is name or changed. */
    @GET
    public Page<View> list(
            @QueryParam("q") String q,
            @QueryParam("sort") String sort,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String order = "changed".equals(sort) ? "changed_at desc" : "lower(name)";
        return new Page<>(
                mapper.page(Page.like(q), order, Page.size(size), Page.offset(page, size)).stream()
                        .map(View::of)
                        .toList(),
                mapper.count(Page.like(q)));
    }

    private WorkingDaysMapper.Row row(long id) {
        WorkingDaysMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("working days");
        }
        return row;
    }

    /** Adds working days. */
    @POST
    @Needs(Right.MANAGE)
    @Transactional
    public View add(Wanted given) {
        String name = Edits.name("What has working days", given.name());
        Edits.free("set of working days", name, mapper.byName(name));
        WorkingDaysMapper.Row row = checked(given);
        return View.of(
                row(mapper.add(name, row.weekdaysOff(), row.datesOff(), row.opens(), row.cutOff(), current.name())));
    }

    /** Changes working days; clocks that keep to them are set anew. */
    @PUT
    @Path("{id}")
    @Needs(Right.MANAGE)
    public View change(@PathParam("id") long id, @HeaderParam("If-Match") String ifMatch, Wanted given) {
        WorkingDaysMapper.Row known = row(id);
        int based = Edits.based("version", ifMatch);
        WorkingDaysMapper.Row row = checked(given);
        if (mapper.change(id, based, row.weekdaysOff(), row.datesOff(), row.opens(), row.cutOff(), current.name())
                == 0) {
            throw Edits.meanwhile("version", known.changedBy(), known.version(), based)
                    .with("theirs", View.of(known));
        }
        for (TriggerMapper.Row trigger : all.active("clock")) {
            if (known.name().equals(Triggers.spec(trigger).days())) {
                clock.set(trigger, Instant.now());
            }
        }
        return View.of(row(id));
    }

    /** Removes working days that no trigger keeps to. */
    @DELETE
    @Path("{id}")
    @Needs(Right.MANAGE)
    @Transactional
    public void remove(@PathParam("id") long id) {
        WorkingDaysMapper.Row row = row(id);
        long used = mapper.used(row.name());
        if (used > 0) {
            throw new Problem(409, "in-use", used + " triggers keep to “" + row.name() + "”: change these first.");
        }
        mapper.remove(id);
    }
}
