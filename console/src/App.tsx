import { ConfigProvider, Skeleton } from 'antd'
import { useLayoutEffect, useState } from 'react'
import { Navigate, Route, Routes } from 'react-router'
import { AccessPage } from './access/AccessPage'
import { AssetPage } from './asset/AssetPage'
import { BehindPage } from './behind/BehindPage'
import { CausesPage } from './causes/CausesPage'
import { ComparePage } from './compare/ComparePage'
import { ConnectPage } from './connect/ConnectPage'
import { CoveragePage } from './coverage/CoveragePage'
import { FindPage } from './find/FindPage'
import { FollowPage } from './follow/FollowPage'
import { GlossaryPage } from './glossary/GlossaryPage'
import { GraphPage } from './graph/GraphPage'
import { ImpactPage } from './impact/ImpactPage'
import { IntakePage } from './intake/IntakePage'
import { LabelsPage } from './labels/LabelsPage'
import { PlannedPage } from './planned/PlannedPage'
import { ReaderPage } from './reader/ReaderPage'
import { RunsPage } from './runs/RunsPage'
import { SignInPage } from './session/SignInPage'
import { isLimited, useSession } from './session/useSession'
import { ProblemNotice } from './shared/Answer'
import { Frame } from './shared/Frame'
import styles from './shared/frame.module.css'
import { ModeContext } from './shared/useInks'
import { type Mode, showInks, themeOf } from './theme'
import { TodayPage } from './today/TodayPage'
import { WorkspacePage } from './workspace/WorkspacePage'

const KEPT = 'longthread.mode'

function firstMode(): Mode {
  const kept = localStorage.getItem(KEPT)
  if (kept === 'light' || kept === 'dark') return kept
  return window.matchMedia?.('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'
}

/** The console: sign-in, then the pages inside their frame. */
export function App() {
  const [mode, setMode] = useState<Mode>(firstMode)
  const change = (next: Mode) => {
    localStorage.setItem(KEPT, next)
    setMode(next)
  }
  useLayoutEffect(() => showInks(mode), [mode])
  return (
    <ModeContext value={mode}>
      <ConfigProvider theme={themeOf(mode)}>
        <div className={styles.root}>
          <Inside mode={mode} onMode={change} />
        </div>
      </ConfigProvider>
    </ModeContext>
  )
}

function Inside({ mode, onMode }: { mode: Mode; onMode: (mode: Mode) => void }) {
  const session = useSession()
  if (session.isPending) return <Skeleton active className={styles.waiting} />
  if (session.isError) return <ProblemNotice error={session.error} />
  if (!session.data.signedIn) return <SignInPage provider={session.data.provider} />
  return (
    <Frame mode={mode} onMode={onMode} session={session.data}>
      <Routes>
        <Route path="/" element={<Navigate to={isLimited(session.data) ? '/find' : '/today'} replace />} />
        <Route path="/today" element={<TodayPage />} />
        <Route path="/follow" element={<FollowPage />} />
        <Route path="/find" element={<FindPage />} />
        <Route path="/asset" element={<AssetPage />} />
        <Route path="/graph" element={<GraphPage />} />
        <Route path="/runs" element={<RunsPage />} />
        <Route path="/behind" element={<BehindPage />} />
        <Route path="/compare" element={<ComparePage />} />
        <Route path="/impact" element={<ImpactPage />} />
        <Route path="/planned" element={<PlannedPage />} />
        <Route path="/causes" element={<CausesPage />} />
        <Route path="/intake" element={<IntakePage />} />
        <Route path="/workspace" element={<WorkspacePage />} />
        <Route path="/reader" element={<ReaderPage />} />
        <Route path="/connect" element={<ConnectPage />} />
        <Route path="/coverage" element={<CoveragePage />} />
        <Route path="/glossary" element={<GlossaryPage />} />
        <Route path="/labels" element={<LabelsPage />} />
        <Route path="/access" element={<AccessPage />} />
        <Route path="*" element={<Navigate to="/find" replace />} />
      </Routes>
    </Frame>
  )
}
