package wirekettle.server.codes;

import wirekettle.server.Database;

/** Code tables in a database, for tests. */
public final class Codes {
    private Codes() {}

    /** Returns the code tables of a database. */
    public static CodeTables over(Database database) {
        CodeTables tables = new CodeTables();
        tables.mapper = database.mapper(CodeTableMapper.class);
        return tables;
    }
}
