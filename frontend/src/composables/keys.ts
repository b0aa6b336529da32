/** What EditView provides to the parts below it. */
import type { InjectionKey } from 'vue'
import type { Playback, ShowFrame } from './usePlayback'

export const PLAYBACK: InjectionKey<Playback> = Symbol('playback')
/** Where pictures are shown; PictureView fills it in. */
export const SCREEN: InjectionKey<{ show: ShowFrame }> = Symbol('screen')
