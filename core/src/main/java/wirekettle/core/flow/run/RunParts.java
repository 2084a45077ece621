package wirekettle.core.flow.run;

/**
 * What the parts of a run work with together.
 *
 * @param shares what records hold of the memory
 * @param window records between the one written next and the one read last
 * @param books the ledger
 * @param order keeps records of one key one after the other, or null
 * @param carry takes what records hand on, or null
 * @param watermark notes how far the source is read, or null
 * @param batches where records wait for company, or null
 * @param answered who is told of ends, or null
 * @param stop whether nothing new is begun
 */
record RunParts(
        RecordWork work,
        Window window,
        Shares shares,
        LedgerWriter books,
        KeyOrder order,
        CarryOver carry,
        Watermark watermark,
        Batches batches,
        Answered answered,
        Stop stop) {}
