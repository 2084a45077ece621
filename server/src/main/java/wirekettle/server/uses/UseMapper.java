package wirekettle.server.uses;

import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** What each run uses. */
@Mapper
public interface UseMapper {
    /** Says that a run uses something. */
    @Insert("insert into run_use (run_id, kind, name) values (#{run}, #{kind}, #{name}) on conflict do nothing")
    void add(@Param("run") long run, @Param("kind") String kind, @Param("name") String name);

    /** Returns the runs going on that use something. */
    @Select(
            """
            select u.run_id from run_use u join run r on r.id = u.run_id
            where r.state in ('running', 'paused') and u.kind = #{kind} and u.name = #{name} order by u.run_id
            """)
    List<Long> going(@Param("kind") String kind, @Param("name") String name);
}
