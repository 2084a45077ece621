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
     * @param replyTo the queue the answer is sent to, null where it is asked for
     * @param correlation what a sent answer says it answers
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
            byte[] answer,
            String replyTo,
            String correlation) {}

    /** The columns of {@link Row}. */
    String ROW = "select place, trigger_id, caller, named, sent, later, run_id, ordinal, answer, reply_to, correlation"
            + " from kept_answer ";

    /** Keeps the place of an answer. */
    @Insert("insert into kept_answer (place, trigger_id, caller, named, sent, later, run_id, ordinal, reply_to,"
            + " correlation) values (#{place}, #{trigger}, #{caller}, #{named}, #{sent}, #{later}, #{run}, #{ordinal},"
            + " #{replyTo}, #{correlation})")
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

    /** Returns those that are to be sent and were not yet, the oldest first. */
    @Select(ROW + "where trigger_id = #{trigger} and reply_to is not null and replied_at is null order by at, place"
            + " limit #{size}")
    List<Row> owed(@Param("trigger") long trigger, @Param("size") int size);

    /** Returns how many are to be sent and were not yet. */
    @Select("select count(*) from kept_answer where trigger_id = #{trigger} and reply_to is not null"
            + " and replied_at is null")
    long countOwed(@Param("trigger") long trigger);

    /** Notes that answers were sent. */
    @Update(
            """
            <script>
            update kept_answer set replied_at = now() where place in
            <foreach collection="places" item="place" open="(" separator="," close=")">#{place}</foreach>
            </script>
            """)
    void replied(@Param("places") List<String> places);

    /** Forgets a place: what was sent under its name may be sent again. */
    @Delete("delete from kept_answer where place = #{place}")
    void forget(@Param("place") String place);

    /** Forgets what is kept longer than each trigger says, or a day; never what has still to be sent. */
    @Delete("delete from kept_answer k using flow_trigger t where t.id = k.trigger_id"
            + " and k.at < now() - coalesce((t.spec ->> 'keepHours')::int, 24) * interval '1 hour'"
            + " and (k.reply_to is null or k.replied_at is not null)")
    int forgetOld();
}
