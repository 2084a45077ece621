package wirekettle.server.serve;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** What callers asked and got over time. */
@Mapper
public interface TrafficMapper {
    /** Answers of one status to one caller in one step; the counts are an array of the database as JSON. */
    record Row(Instant at, String caller, Integer status, String answered) {}

    /** Adds counts to a minute; they are written as an array of the database. */
    @Insert("insert into caller_minute (trigger_id, at, caller, status, answered) values (#{trigger}, #{at}, #{caller},"
            + " #{status}, #{answered}::bigint[]) on conflict (trigger_id, at, caller, status) do update set answered ="
            + " add_arrays(caller_minute.answered, excluded.answered)")
    void add(
            @Param("trigger") long trigger,
            @Param("at") Instant at,
            @Param("caller") String caller,
            @Param("status") int status,
            @Param("answered") String answered);

    /** Returns the triggers there are. */
    @Select("select id from flow_trigger where kind in ('http', 'queue')")
    List<Long> there();

    /** Returns what callers of a trigger asked and got, in steps of some seconds. */
    @Select("with steps as (select to_timestamp(floor(extract(epoch from at) / #{seconds}) * #{seconds}) step, caller,"
            + " status, answered from caller_minute where trigger_id = #{trigger} and at >= #{from})"
            + " select step at, caller, status, (select json_agg(n order by i) from (select i, sum(x)::bigint n from"
            + " steps s, unnest(s.answered) with ordinality as t (x, i) where s.step = o.step and s.caller = o.caller"
            + " and s.status = o.status group by i) sums)::text answered from steps o group by step, caller, status"
            + " order by step")
    List<Row> rows(@Param("trigger") long trigger, @Param("from") Instant from, @Param("seconds") int seconds);

    /** Forgets what is older than a month. */
    @Delete("delete from caller_minute where at < now() - interval '31 days'")
    int forgetOld();
}
