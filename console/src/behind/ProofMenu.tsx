import { useMutation } from '@tanstack/react-query'
import { Alert, Button, Dropdown, Modal, Upload } from 'antd'
import { useState } from 'react'
import { answered, api, type Schemas } from '../api/client'
import { ProblemNotice } from '../shared/Answer'
import shared from '../shared/shared.module.css'

const SIGNATURES: Record<string, string> = {
  valid: 'Signed by this installation.',
  'another-installation': 'Signed by another installation.',
}

/** The address of a proof of what was in an asset at a moment. */
export function proofPath(ref: string, as: 'json' | 'prov-json' | 'html', asOf?: string): string {
  const query = new URLSearchParams({ ref, as })
  if (asOf) query.set('asOf', asOf)
  return `api/v1/proof?${query}`
}

/** A signed proof to print or to keep, and whether one that was kept still holds. */
export function ProofMenu({ refText, asOf }: { refText: string; asOf?: string }) {
  const [checking, setChecking] = useState(false)
  const link = (as: 'json' | 'prov-json' | 'html', label: string) => ({
    key: as,
    label: (
      <a
        href={proofPath(refText, as, asOf)}
        {...(as === 'html' ? { target: '_blank', rel: 'noreferrer' } : { download: true })}
      >
        {label}
      </a>
    ),
  })
  return (
    <>
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            link('html', 'Open a page to print'),
            link('json', 'Download signed JSON'),
            link('prov-json', 'Download PROV-JSON'),
            { type: 'divider' },
            { key: 'check', label: 'Check a proof…', onClick: () => setChecking(true) },
          ],
        }}
      >
        <Button size="small">Proof</Button>
      </Dropdown>
      <Modal
        title="Check a proof"
        open={checking}
        footer={null}
        onCancel={() => setChecking(false)}
        destroyOnHidden
      >
        <CheckProof />
      </Modal>
    </>
  )
}

function CheckProof() {
  const check = useMutation({
    mutationFn: async (file: File) =>
      answered(
        api.POST('/api/v1/proof/check', {
          body: (await file.text()) as unknown as Record<string, never>,
          bodySerializer: (text) => text as unknown as string,
          headers: { 'Content-Type': 'application/json' },
        }),
      ),
  })
  return (
    <>
      <p>Its digest, its signature, and each event that it names are compared with the log.</p>
      <Upload
        accept=".json"
        showUploadList={false}
        beforeUpload={(file) => {
          check.mutate(file)
          return false
        }}
      >
        <Button loading={check.isPending}>Choose a signed JSON</Button>
      </Upload>
      {check.error && <ProblemNotice error={check.error} />}
      {check.data && <Result found={check.data} />}
    </>
  )
}

/** Whether a proof holds, why not, and what has become known since it was made. */
export function Result({ found }: { found: Schemas['Checked'] }) {
  const lines = [
    ...found.problems,
    ...(SIGNATURES[found.signature] ? [SIGNATURES[found.signature]] : []),
    `Of ${found.events} events ${found.found} are in the log as listed, ${found.aged} known by digest alone, ${found.missing.length} missing.`,
    ...found.differences.map((words) => `Known since it was made: ${words}`),
  ]
  return (
    <Alert
      className={shared.below}
      type={found.valid ? 'success' : 'error'}
      title={found.valid ? 'The proof is valid' : 'The proof is not valid'}
      description={
        <ul>
          {lines.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      }
    />
  )
}
