package wirekettle.server.settings;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** Allowed hosts and endpoints. */
@Mapper
public interface SettingsMapper {
    /** Returns all allowed hosts. */
    @Select("select host, allowed_by, allowed_at from allowed_host order by host")
    List<AllowedHost> hosts();

    /** Allows a host. */
    @Insert("insert into allowed_host (host, allowed_by) values (#{host}, #{by}) on conflict do nothing")
    void allow(@Param("host") String host, @Param("by") String by);

    /** Allows a host no longer. */
    @Delete("delete from allowed_host where host = #{host}")
    void disallow(@Param("host") String host);

    /** Returns all endpoints. */
    @Select("select id, name, test_address, live_address from endpoint order by name")
    List<Endpoint> endpoints();

    /** Returns an endpoint by name, or null. */
    @Select("select id, name, test_address, live_address from endpoint where name = #{name}")
    Endpoint endpoint(@Param("name") String name);

    /** Adds or changes an endpoint. */
    @Insert(
            """
            insert into endpoint (name, test_address, live_address) values (#{name}, #{test}, #{live})
            on conflict (name) do update set test_address = excluded.test_address, live_address = excluded.live_address
            """)
    void save(@Param("name") String name, @Param("test") String test, @Param("live") String live);

    /** Removes an endpoint. */
    @Delete("delete from endpoint where id = #{id}")
    void removeEndpoint(@Param("id") long id);
}
