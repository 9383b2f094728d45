import { Button, Dropdown } from 'antd'
import { download, type SvgPicture } from './svgText'
import { useInks } from './useInks'

type Props = {
  name: string
  picture: () => SvgPicture | undefined
  disabled?: boolean
  /** What is shown, in formats that other programs read: their names, and where each is had. */
  files?: { label: string; href: string }[]
}

/** A picture to take away, as a file. */
export function PictureMenu({ name, picture, disabled, files = [] }: Props) {
  const ink = useInks()
  const take = (as: 'svg' | 'png') => {
    const drawn = picture()
    if (drawn) download(drawn, ink, name, as)
  }
  return (
    <Dropdown
      disabled={disabled}
      menu={{
        items: [
          { key: 'svg', label: 'Download SVG', onClick: () => take('svg') },
          { key: 'png', label: 'Download PNG', onClick: () => take('png') },
          ...files.map(({ label, href }) => ({
            key: label,
            label: (
              <a href={href} download>
                Download {label}
              </a>
            ),
          })),
        ],
      }}
      trigger={['click']}
    >
      <Button size="small">Download</Button>
    </Dropdown>
  )
}
