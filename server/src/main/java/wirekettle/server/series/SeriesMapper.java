package wirekettle.server.series;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** Series, where they stand, and the numbers that are open. */
@Mapper
public interface SeriesMapper {
    /** A series as it is stored. */
    record Row(
            Long id,
            String name,
            Boolean gapless,
            Long start,
            String pattern,
            Boolean yearly,
            String zone,
            Integer version,
            Instant changedAt,
            String changedBy) {}

    /** Where a series stands in an environment and year. */
    record Next(Long seriesId, String environment, Integer year, Long next) {}

    /** A number that a record holds, or that was given back. */
    record Open(
            String environment,
            Integer year,
            Long number,
            Long runId,
            Long ordinal,
            String path,
            String stage,
            String state) {}

    /** The columns of {@link Row}. */
    String COLUMNS =
            "select id, name, gapless, start, pattern, yearly, zone, version, changed_at, changed_by from series ";

    /** Returns series whose name or pattern matches. */
    @Select(COLUMNS + "where name ilike #{like} or pattern ilike #{like}"
            + " order by ${order} limit #{size} offset #{offset}")
    List<Row> page(
            @Param("like") String like,
            @Param("order") String order,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from series where name ilike #{like} or pattern ilike #{like}")
    long count(@Param("like") String like);

    /** Returns one series, or null. */
    @Select(COLUMNS + "where id = #{id}")
    Row byId(@Param("id") long id);

    /** Returns one series by name, or null. */
    @Select(COLUMNS + "where name = #{name}")
    Row byName(@Param("name") String name);

    /** Returns where a series stands, by environment and year. */
    @Select("select series_id, environment, year, next from series_next where series_id = #{id}"
            + " order by environment, year desc")
    List<Next> next(@Param("id") long id);

    /** Returns the number a series would give next in an environment and year, what was given back first; or null. */
    @Select("select coalesce((select min(number) from series_number where series_id = s.id"
            + " and environment = #{environment} and year = #{year} and run_id is null),"
            + " (select next from series_next where series_id = s.id and environment = #{environment}"
            + " and year = #{year})) from series s where s.name = #{name}")
    Long wouldGive(@Param("name") String name, @Param("environment") String environment, @Param("year") int year);

    /** Returns numbers that records hold or that were given back, in order. */
    @Select("select n.environment, n.year, n.number, n.run_id, n.ordinal, n.path, n.stage, r.state from series_number n"
            + " left join run r on r.id = n.run_id where n.series_id = #{id} order by n.environment, n.year, n.number"
            + " limit #{size} offset #{offset}")
    List<Open> open(@Param("id") long id, @Param("size") int size, @Param("offset") long offset);

    /** Returns how many there are of these. */
    @Select("select count(*) from series_number where series_id = #{id}")
    long countOpen(@Param("id") long id);

    /** Adds a series and returns its id. */
    @Select(
            value = "insert into series (name, gapless, start, pattern, yearly, zone, changed_by, made_by) values"
                    + " (#{name}, #{gapless}, #{start}, #{pattern}, #{yearly}, #{zone}, #{by}, #{by}) returning id",
            affectData = true)
    long add(
            @Param("name") String name,
            @Param("gapless") boolean gapless,
            @Param("start") long start,
            @Param("pattern") String pattern,
            @Param("yearly") boolean yearly,
            @Param("zone") String zone,
            @Param("by") String by);

    /** Changes a series, only when nobody did so before; returns how many rows changed. */
    @Update("update series set gapless = #{gapless}, start = #{start}, pattern = #{pattern}, yearly = #{yearly},"
            + " zone = #{zone}, version = version + 1, changed_at = now(), changed_by = #{by}"
            + " where id = #{id} and version = #{version}")
    int change(
            @Param("id") long id,
            @Param("version") int version,
            @Param("gapless") boolean gapless,
            @Param("start") long start,
            @Param("pattern") String pattern,
            @Param("yearly") boolean yearly,
            @Param("zone") String zone,
            @Param("by") String by);

    /** Returns who made one, null when there is no such thing. */
    @Select("select made_by from series where id = #{id}")
    String madeBy(@Param("id") long id);

    /** Removes a series with its counters. */
    @Delete("delete from series where id = #{id}")
    void remove(@Param("id") long id);

    /** Gives a number back that a record holds whose run does not go on; returns how many. */
    @Update("update series_number set run_id = null, ordinal = null, path = null, stage = null" + HELD)
    int giveBack(
            @Param("id") long id,
            @Param("environment") String environment,
            @Param("year") int year,
            @Param("number") long number);

    /** Counts a number as used that a record holds whose run does not go on; returns how many. */
    @Delete("delete from series_number" + HELD)
    int use(
            @Param("id") long id,
            @Param("environment") String environment,
            @Param("year") int year,
            @Param("number") long number);

    /** A number held for a run that does not go on. */
    String HELD = " where series_id = #{id} and environment = #{environment} and year = #{year} and number = #{number}"
            + " and run_id is not null and not exists (select 1 from run where id = series_number.run_id"
            + " and state in ('running', 'paused', 'interrupted'))";

    /**
     * Gives back what a run holds that is over, but for records that something was claimed for: nobody knows what became
     * of it. What is claimed for a batch is claimed for all its records.
     */
    @Update(
            "update series_number n set run_id = null, ordinal = null, path = null, stage = null where n.run_id = #{run}"
                    + " and not exists (select 1 from passage p where p.run_id = n.run_id"
                    + " and p.month = (select month_of(started_at) from run where id = #{run})"
                    + " and p.changes and p.outcome <> 'not-done' and (p.ordinal = n.ordinal and (n.path = '' or p.path = ''"
                    + " or p.path = n.path or p.path like n.path || '/%')"
                    + " or p.ordinal between 1 and n.ordinal and p.last_member >= n.ordinal))")
    int release(@Param("run") long run);
}
