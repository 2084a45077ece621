package wirekettle.server.series;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.HeaderParam;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.time.Instant;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.value.Series;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.uses.Uses;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Series: list, change, where they stand, and the numbers that are open. */
@Path("/api")
public class SeriesResource {
    @Inject
    SeriesMapper mapper;

    @Inject
    CurrentPerson current;

    @Inject
    Uses uses;

    /** Where a series stands: the number next drawn, as it is written. */
    @Schema(
            name = "SeriesPosition",
            requiredProperties = {"environment", "year", "next"})
    public record Position(String environment, int year, String next) {}

    /** A series; {@code open} is how many numbers are held by records or were given back. */
    @Schema(
            name = "Series",
            requiredProperties = {
                "id",
                "name",
                "gapless",
                "start",
                "yearly",
                "first",
                "positions",
                "open",
                "version",
                "changedAt",
                "changedBy"
            })
    public record SeriesView(
            long id,
            String name,
            boolean gapless,
            long start,
            String pattern,
            boolean yearly,
            String zone,
            String first,
            List<Position> positions,
            long open,
            int version,
            Instant changedAt,
            String changedBy) {}

    /** What a series is. */
    @Schema(name = "SeriesText")
    public record SeriesContent(String name, Boolean gapless, Long start, String pattern, Boolean yearly, String zone) {
        Series series(String its) {
            return new Series(
                    its,
                    Boolean.TRUE.equals(gapless),
                    start == null ? 1 : start,
                    pattern == null || pattern.isBlank() ? null : pattern.strip(),
                    Boolean.TRUE.equals(yearly),
                    zone == null || zone.isBlank() ? null : zone.strip());
        }
    }

    /** A number that is held by a record on its way, or was given back: then it has no run. */
    @Schema(
            name = "SeriesNumber",
            requiredProperties = {"environment", "year", "number", "text"})
    public record OpenNumber(
            String environment,
            int year,
            long number,
            String text,
            Long run,
            String runState,
            Long ordinal,
            String path,
            String stage) {}

    /** What is said of a number held for a run that is over. */
    @Schema(
            name = "SeriesNumberSettled",
            requiredProperties = {"environment", "year", "number", "used"})
    public record Settled(String environment, int year, long number, boolean used) {}

    private SeriesView whole(SeriesMapper.Row row) {
        Series series = SeriesStore.series(row);
        List<Position> positions = mapper.next(row.id()).stream()
                .map(next -> new Position(
                        next.environment(), next.year(), series.text(next.next(), year(series, next.year()))))
                .toList();
        return new SeriesView(
                row.id(),
                row.name(),
                row.gapless(),
                row.start(),
                row.pattern(),
                row.yearly(),
                row.zone(),
                series.text(series.start(), series.year(Instant.now())),
                positions,
                mapper.countOpen(row.id()),
                row.version(),
                row.changedAt(),
                row.changedBy());
    }

    private static int year(Series series, int counted) {
        return counted == 0 ? series.year(Instant.now()) : counted;
    }

    private SeriesMapper.Row row(long id) {
        SeriesMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("series");
        }
        return row;
    }

    /** Returns series by name or pattern; sort is name or changed. */
    @GET
    @Path("series")
    public Page<SeriesView> list(
            @QueryParam("q") String q,
            @QueryParam("sort") String sort,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String order = "changed".equals(sort) ? "changed_at desc" : "lower(name)";
        List<SeriesView> items = mapper.page(Page.like(q), order, Page.size(size), Page.offset(page, size)).stream()
                .map(this::whole)
                .toList();
        return new Page<>(items, mapper.count(Page.like(q)));
    }

    /** Returns one series. */
    @GET
    @Path("series/{id}")
    public SeriesView one(@PathParam("id") long id) {
        return whole(row(id));
    }

    /** Returns the numbers of a series that are held by records, or were given back. */
    @GET
    @Path("series/{id}/numbers")
    public Page<OpenNumber> numbers(
            @PathParam("id") long id, @QueryParam("page") Integer page, @QueryParam("size") Integer size) {
        Series series = SeriesStore.series(row(id));
        List<OpenNumber> items = mapper.open(id, Page.size(size), Page.offset(page, size)).stream()
                .map(open -> new OpenNumber(
                        open.environment(),
                        open.year(),
                        open.number(),
                        series.text(open.number(), year(series, open.year())),
                        open.runId(),
                        open.state(),
                        open.ordinal(),
                        open.path(),
                        open.stage()))
                .toList();
        return new Page<>(items, mapper.countOpen(id));
    }

    /** Says of a number held for a run that is over whether it counts as used, or is given back. */
    @POST
    @Needs(Right.BUILD)
    @Path("series/{id}/numbers/settled")
    public SeriesView settle(@PathParam("id") long id, Settled given) {
        SeriesMapper.Row row = row(id);
        int settled = given.used()
                ? mapper.use(id, given.environment(), given.year(), given.number())
                : mapper.giveBack(id, given.environment(), given.year(), given.number());
        if (settled == 0) {
            throw new Problem(
                    409,
                    "not-held",
                    "This number is not held any more, or its run can still go on: look again, or cancel the run.");
        }
        return whole(row);
    }

    /** Adds a series. */
    @POST
    @Needs(Right.BUILD)
    @Path("series")
    public SeriesView create(SeriesContent given) {
        String name = Edits.name("A series", given.name());
        Edits.free("series", name, mapper.byName(name));
        Series series = checked(given.series(name));
        long id = mapper.add(
                name,
                series.gapless(),
                series.start(),
                series.pattern(),
                series.yearly(),
                series.zone(),
                current.get().name());
        return whole(row(id));
    }

    /** Changes a series; If-Match carries the version the change is based on. */
    @PUT
    @Needs(Right.BUILD)
    @Path("series/{id}")
    public SeriesView change(@PathParam("id") long id, @HeaderParam("If-Match") String ifMatch, SeriesContent given) {
        SeriesMapper.Row row = row(id);
        int based = Edits.based("version", ifMatch);
        Series series = checked(given.series(row.name()));
        boolean counts = series.gapless() != row.gapless() || series.yearly() != row.yearly();
        if (counts && !mapper.next(id).isEmpty()) {
            throw new Problem(
                    409,
                    "drawn-already",
                    "Numbers of “" + row.name() + "” were drawn: whether it has gaps and begins anew each year stays as"
                            + " it is. Add another series.");
        }
        if (mapper.change(
                        id,
                        based,
                        series.gapless(),
                        series.start(),
                        series.pattern(),
                        series.yearly(),
                        series.zone(),
                        current.get().name())
                == 0) {
            throw Edits.meanwhile("version", row.changedBy(), row.version(), based)
                    .with("theirs", whole(row));
        }
        return whole(row(id));
    }

    /** Removes a series with its counters. */
    @DELETE
    @Needs(Right.BUILD)
    @Path("series/{id}")
    public void remove(@PathParam("id") long id) {
        SeriesMapper.Row row = row(id);
        current.mustOwn(mapper.madeBy(id), "The series “" + row.name() + "”");
        uses.mustBeFree(Uses.Kind.SERIES, row.name(), "The series “" + row.name() + "”");
        mapper.remove(id);
    }

    private static Series checked(Series series) {
        String problem = series.problem();
        if (problem != null) {
            throw new Problem(422, "bad-series", "The series cannot be used: " + problem + ".");
        }
        return series;
    }
}
