import { createRouter, createWebHistory } from 'vue-router'
import EditView from './views/EditView.vue'
import StartView from './views/StartView.vue'
import WorkersView from './views/WorkersView.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: StartView },
    { path: '/workers', component: WorkersView },
    { path: '/edits/:id(\\d+)', component: EditView, props: (route) => ({ id: Number(route.params.id) }) },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
