import { createRouter, createWebHistory } from 'vue-router'
import EditView from './views/EditView.vue'
import StartView from './views/StartView.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: StartView },
    { path: '/edits/:id(\\d+)', component: EditView, props: (route) => ({ id: Number(route.params.id) }) },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
