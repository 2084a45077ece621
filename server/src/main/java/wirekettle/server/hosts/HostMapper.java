package wirekettle.server.hosts;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** Allowed hosts. */
@Mapper
public interface HostMapper {
    /** Returns all allowed hosts. */
    @Select("select host, allowed_by, allowed_at from allowed_host order by host")
    List<AllowedHost> hosts();

    /** Allows a host. */
    @Insert("insert into allowed_host (host, allowed_by) values (#{host}, #{by}) on conflict do nothing")
    void allow(@Param("host") String host, @Param("by") String by);

    /** Allows a host no longer. */
    @Delete("delete from allowed_host where host = #{host}")
    void disallow(@Param("host") String host);
}
