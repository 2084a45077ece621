package wirekettle.server.metrics;

import java.util.List;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Select;

/** Figures that are counted anew each time. */
@Mapper
public interface MetricMapper {
    /** How many there are of something. */
    record Figure(String one, String two, String three, Long count) {}

    /** Returns runs that go on or wait, by environment and state; on hold is a state of its own. */
    @Select(
            "select environment, case when on_hold is not null and state = 'running' then 'on-hold' else state end s, '' three,"
                    + " count(*) from run where state in ('running', 'paused', 'interrupted') group by 1, 2")
    List<Figure> runs();

    /** Returns records by flow, environment and end, of all runs there were. */
    @Select(
            "select f.name, r.environment, e.word, sum(e.n)::bigint from run r join flow f on f.id = r.flow_id cross join"
                    + " lateral (values ('done', r.done), ('rejected', r.rejected), ('left-out', r.left_out), ('in-doubt',"
                    + " r.in_doubt), ('held-back', r.held_back)) e (word, n) group by 1, 2, 3")
    List<Figure> records();

    /** Returns alerts nobody has acknowledged, by kind. */
    @Select("select kind, '' two, '' three, count(*) n from alert where acknowledged_at is null group by 1")
    List<Figure> alerts();

    /** Returns how many messages could not be sent yet. */
    @Select("select count(*) from alert_message where sent_at is null and attempts > 0")
    long unsent();
}
