import { App as AntApp, Button, ConfigProvider, Dropdown, Input, Modal, Select, Spin } from 'antd';
import { StrictMode, useState } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, NavLink, Route, Routes } from 'react-router';

/** The yardstick of the first view: React, routes, and the Ant Design parts any such shell starts with; nothing of ours. */
function Shell() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <header>
        <NavLink to="/">Home</NavLink>
        <Select options={[{ value: 'a', label: 'A' }]} />
        <Dropdown menu={{ items: [{ key: 'out', label: 'Sign out' }] }}><Button>Person</Button></Dropdown>
      </header>
      <Routes>
        <Route path="/" element={<Input />} />
        <Route path="*" element={<Spin />} />
      </Routes>
      <Modal open={open} onCancel={() => setOpen(false)}>text</Modal>
    </>
  );
}

const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <ConfigProvider>
        <AntApp>
          <BrowserRouter>
            <Shell />
          </BrowserRouter>
        </AntApp>
      </ConfigProvider>
    </StrictMode>,
  );
}
