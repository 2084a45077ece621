import { useQuery } from '@tanstack/react-query';
import { App, Button, Input, Table, Upload } from 'antd';
import { useState } from 'react';
import { api, ApiProblem, query } from '../api/client';
import type { Dataset, FolderFile, Page } from '../api/types';
import { Nothing, Trouble, When } from '../shared/parts';

const SIZE = 50;

/** The files of a folder: added, found, sorted, saved, removed. */
export function FolderFiles({ dataset, onChanged }: { dataset: Dataset; onChanged: () => void }) {
  const { modal, message } = App.useApp();
  const [text, setText] = useState('');
  const [sort, setSort] = useState('name');
  const [page, setPage] = useState(1);
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>();
  const at = `/datasets/${dataset.id}/files`;
  const list = useQuery({
    queryKey: ['files', dataset.id, text, sort, page],
    queryFn: () => api.get<Page<FolderFile>>(`${at}${query({ q: text, sort, page, size: SIZE })}`),
    placeholderData: (before) => before,
  });
  const changed = async () => {
    await list.refetch();
    onChanged();
  };
  const add = async (files: File[], replace = false) => {
    setError(undefined);
    setBusy(true);
    try {
      await api.upload(`${at}${query({ replace: replace || undefined })}`, 'files', files);
      void message.success(
        files.length === 1 ? `${files[0].name} is in the folder` : `${files.length} files are in the folder`,
      );
      await changed();
    } catch (e) {
      if (e instanceof ApiProblem && e.code === 'file-exists') {
        modal.confirm({
          title: 'Replace what is there?',
          content: e.message,
          okText: 'Replace',
          onOk: () => add(files, true),
        });
      } else setError(e);
    } finally {
      setBusy(false);
    }
  };
  const remove = (file: FolderFile) =>
    modal.confirm({
      title: `Remove ${file.name}?`,
      content: 'Records that name it will be rejected from then on.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: async () => {
        await api.remove(`${at}${query({ name: file.name })}`).catch(setError);
        await changed();
      },
    });
  const choose = (
    <Upload
      multiple
      showUploadList={false}
      beforeUpload={(file, all) => {
        if (file === all[0]) void add(all);
        return false;
      }}
    >
      <Button type={dataset.rows ? 'default' : 'primary'} loading={busy}>
        Add files
      </Button>
    </Upload>
  );
  return (
    <>
      <Trouble error={error ?? list.error} retry={() => void list.refetch()} />
      {list.data?.total === 0 && !text ? (
        <Nothing title="No files yet" action={choose}>
          A flow sends a file from here when a base64 field is filled with the file's name, and writes
          attachments of replies here.
        </Nothing>
      ) : (
        <>
          <div className="row gap-below">
            {choose}
            <span className="grow" />
            <Input.Search
              size="small"
              allowClear
              placeholder="Find a file"
              className="field-2xl"
              onChange={(e) => {
                setText(e.target.value);
                setPage(1);
              }}
            />
          </div>
          <Table<FolderFile>
            size="small"
            rowKey="name"
            loading={list.isPending}
            dataSource={list.data?.items}
            pagination={{
              current: page,
              pageSize: SIZE,
              total: list.data?.total,
              hideOnSinglePage: true,
              showSizeChanger: false,
              size: 'small',
            }}
            onChange={(paging, _, sorter) => {
              const by = Array.isArray(sorter) ? sorter[0] : sorter;
              setPage(paging.current ?? 1);
              setSort(by.order ? `${by.order === 'descend' ? '-' : ''}${String(by.columnKey)}` : 'name');
            }}
            columns={[
              {
                title: 'Name',
                key: 'name',
                dataIndex: 'name',
                sorter: true,
                ellipsis: true,
                render: (name: string) => (
                  <a href={`/api${at}/content${query({ name })}`} download={name}>
                    {name}
                  </a>
                ),
              },
              {
                title: 'Type',
                key: 'type',
                dataIndex: 'type',
                width: 200,
                sorter: true,
                render: (type: string) => <span className="mono">{type}</span>,
              },
              {
                title: 'Size',
                key: 'bytes',
                dataIndex: 'bytes',
                width: 110,
                align: 'right',
                sorter: true,
                render: bytes,
              },
              {
                title: 'Written',
                key: 'written',
                dataIndex: 'writtenAt',
                width: 160,
                sorter: true,
                render: (when: string) => <When at={when} />,
              },
              {
                title: '',
                width: 90,
                align: 'right',
                render: (_, file) => (
                  <Button size="small" type="text" danger onClick={() => remove(file)}>
                    Remove
                  </Button>
                ),
              },
            ]}
          />
        </>
      )}
    </>
  );
}

function bytes(count: number): string {
  return count < 1_000
    ? `${count} B`
    : count < 1_000_000
      ? `${(count / 1_000).toFixed(1)} kB`
      : `${(count / 1_000_000).toFixed(1)} MB`;
}
