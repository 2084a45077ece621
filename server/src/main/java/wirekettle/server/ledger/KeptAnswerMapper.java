package wirekettle.server.ledger;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** Answers that may be asked for later. */
@Mapper
public interface KeptAnswerMapper {
    /**
     * An answer, or the place for one.
     *
     * @param named the caller's own name for what was sent, or null
     * @param sent a hash of what was sent
     * @param later whether the caller does not wait
     * @param answer what the flow answered, sealed; null while there is none
     */
    record Row(
            String place,
            Long trigger,
            String caller,
            String named,
            String sent,
            Boolean later,
            Long run,
            Long ordinal,
            byte[] answer) {}

    /** The columns of {@link Row}. */
    String ROW = "select place, trigger_id, caller, named, sent, later, run_id, ordinal, answer from kept_answer ";

    /** Keeps the place of an answer. */
    @Insert("insert into kept_answer (place, trigger_id, caller, named, sent, later, run_id, ordinal) values (#{place},"
            + " #{trigger}, #{caller}, #{named}, #{sent}, #{later}, #{run}, #{ordinal})")
    void add(Row row);

    /** Returns what a caller has sent under a name, or null. */
    @Select(ROW + "where trigger_id = #{trigger} and caller = #{caller} and named = #{named}")
    Row named(@Param("trigger") long trigger, @Param("caller") String caller, @Param("named") String named);

    /** Returns what is at a place, or null. */
    @Select(ROW + "where trigger_id = #{trigger} and place = #{place}")
    Row at(@Param("trigger") long trigger, @Param("place") String place);

    /** Returns those of a run without an answer. */
    @Select(ROW + "where run_id = #{run} and answer is null order by ordinal")
    List<Row> open(@Param("run") long run);

    /** Keeps what was answered. */
    @Update("update kept_answer set answer = #{answer} where run_id = #{run} and ordinal = #{ordinal}")
    void answered(@Param("run") long run, @Param("ordinal") long ordinal, @Param("answer") byte[] answer);

    /** Forgets a place: what was sent under its name may be sent again. */
    @Delete("delete from kept_answer where place = #{place}")
    void forget(@Param("place") String place);

    /** Forgets what is kept longer than each trigger says, or a day. */
    @Delete("delete from kept_answer k using flow_trigger t where t.id = k.trigger_id"
            + " and k.at < now() - coalesce((t.spec ->> 'keepHours')::int, 24) * interval '1 hour'")
    int forgetOld();
}
