/** Which files are songs, and which are footage, by the endings of their names. */
const SONGS = 'wav flac ogg oga opus mp3 m4a aac aif aiff wma mka'.split(' ')
const TAKES = 'mp4 m4v mov mkv webm ts mts m2ts avi mpg mpeg m2v vob flv wmv 3gp mxf h264 hevc gif'.split(' ')

const ends = (name: string, endings: string[]) => endings.includes(name.split('.').pop()!.toLowerCase())

export const isSong = (name: string) => ends(name, SONGS)
export const isMedia = (name: string) => ends(name, [...SONGS, ...TAKES])
/** For a file dialog: browsers do not know all of these as sound or picture. */
export const ACCEPT = ['audio/*', 'video/*', ...[...SONGS, ...TAKES].map((ending) => `.${ending}`)].join()
