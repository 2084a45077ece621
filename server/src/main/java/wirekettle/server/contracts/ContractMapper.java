package wirekettle.server.contracts;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** Contracts and their documents. */
@Mapper
public interface ContractMapper {
    /** A contract as it is stored. */
    record Row(Long id, String name, String source, Instant importedAt, Integer revision) {}

    /** A revision of a contract; entries and unavailable are JSON. */
    record RevisionRow(
            Integer revision,
            String source,
            String entries,
            String unavailable,
            String summary,
            Instant madeAt,
            String madeBy) {}

    /** A document with its content. */
    record DocumentRow(String name, String sha256, byte[] bytes) {}

    /** An operation's confirmed effect. */
    record EffectRow(String operation, String effect) {}

    /** Returns contracts whose name matches, by name. */
    @Select("select id, name, source, imported_at, revision from contract where name ilike #{like}"
            + " order by ${order} limit #{size} offset #{offset}")
    List<Row> page(
            @Param("like") String like,
            @Param("order") String order,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from contract where name ilike #{like}")
    long count(@Param("like") String like);

    /** Returns one contract, or null. */
    @Select("select id, name, source, imported_at, revision from contract where id = #{id}")
    Row byId(@Param("id") long id);

    /** Returns one contract by name, or null. */
    @Select("select id, name, source, imported_at, revision from contract where name = #{name}")
    Row byName(@Param("name") String name);

    /** Adds a contract and returns its id, null when the name is taken. */
    @Select(
            value = "insert into contract (name, source, made_by) values (#{name}, #{source}, #{by})"
                    + " on conflict do nothing returning id",
            affectData = true)
    Long add(@Param("name") String name, @Param("source") String source, @Param("by") String by);

    /** Returns who made one, null when there is no such thing. */
    @Select("select made_by from contract where id = #{id}")
    String madeBy(@Param("id") long id);

    /** Keeps a document's content once. */
    @Insert("insert into document (sha256, bytes) values (#{sha256}, #{bytes}) on conflict do nothing")
    void keep(@Param("sha256") String sha256, @Param("bytes") byte[] bytes);

    /** Adds a document to a revision. */
    @Insert("insert into contract_document (contract_id, revision, position, name, sha256)"
            + " values (#{id}, #{revision}, #{position}, #{name}, #{sha256})")
    void addDocument(
            @Param("id") long id,
            @Param("revision") int revision,
            @Param("position") int position,
            @Param("name") String name,
            @Param("sha256") String sha256);

    /** Returns a revision's documents, the entry first. */
    @Select("select cd.name, cd.sha256, d.bytes from contract_document cd join document d on d.sha256 = cd.sha256"
            + " where cd.contract_id = #{id} and cd.revision = #{revision} order by cd.position")
    List<DocumentRow> documents(@Param("id") long id, @Param("revision") int revision);

    /** Returns the hashes of a revision's documents in order. */
    @Select("select sha256 from contract_document where contract_id = #{id} and revision = #{revision}"
            + " order by position")
    List<String> hashes(@Param("id") long id, @Param("revision") int revision);

    /** Adds a revision. */
    @Insert(
            """
            insert into contract_revision (contract_id, revision, source, entries, unavailable, summary, made_by)
            values (#{id}, #{revision}, #{source}, #{entries}::jsonb, #{unavailable}::jsonb, #{summary}::jsonb, #{by})
            """)
    void addRevision(
            @Param("id") long id,
            @Param("revision") int revision,
            @Param("source") String source,
            @Param("entries") String entries,
            @Param("unavailable") String unavailable,
            @Param("summary") String summary,
            @Param("by") String by);

    /** Makes a revision the one in use, only when the one before still is; returns how many rows changed. */
    @Update("update contract set revision = #{revision}, source = #{source}"
            + " where id = #{id} and revision = #{revision} - 1")
    int use(@Param("id") long id, @Param("revision") int revision, @Param("source") String source);

    /** Returns a contract's revisions, the newest first. */
    @Select("select revision, source, entries, unavailable, summary, made_at, made_by from contract_revision"
            + " where contract_id = #{id} order by revision desc")
    List<RevisionRow> revisions(@Param("id") long id);

    /** Returns one revision, or null. */
    @Select("select revision, source, entries, unavailable, summary, made_at, made_by from contract_revision"
            + " where contract_id = #{id} and revision = #{revision}")
    RevisionRow revision(@Param("id") long id, @Param("revision") int revision);

    /** Returns the effects people confirmed. */
    @Select("select operation, effect from operation_effect where contract_id = #{id}")
    List<EffectRow> effects(@Param("id") long id);

    /** Confirms an operation's effect. */
    @Insert(
            """
            insert into operation_effect (contract_id, operation, effect, confirmed_by)
            values (#{id}, #{operation}, #{effect}, #{by})
            on conflict (contract_id, operation)
            do update set effect = excluded.effect, confirmed_by = excluded.confirmed_by
            """)
    void confirm(
            @Param("id") long id,
            @Param("operation") String operation,
            @Param("effect") String effect,
            @Param("by") String by);

    /** Removes a contract. */
    @Delete("delete from contract where id = #{id}")
    void remove(@Param("id") long id);
}
