package wirekettle.server.ledger;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** What callers sent. */
@Mapper
public interface RequestMapper {
    /**
     * A request as it is kept.
     *
     * @param input what was sent, sealed
     * @param problem why it ends rejected without any work, or null
     */
    record Row(Long ordinal, byte[] input, String problem) {}

    /** Keeps what callers sent. */
    @Insert(
            """
            <script>
            insert into request (run_id, ordinal, input, problem) values
            <foreach collection="rows" item="row" separator=",">
            (#{run}, #{row.ordinal}, #{row.input}, #{row.problem})
            </foreach>
            </script>
            """)
    void keep(@Param("run") long run, @Param("rows") List<Row> rows);

    /** Returns what came behind a place, in order. */
    @Select("select ordinal, input, problem from request where run_id = #{run} and ordinal > #{after} order by ordinal"
            + " limit #{size}")
    List<Row> after(@Param("run") long run, @Param("after") long after, @Param("size") int size);

    /** Forgets what callers sent to a run that has ended. */
    @Delete("delete from request where run_id = #{run}")
    void forget(@Param("run") long run);
}
