<script setup lang="ts">
import { watch } from 'vue'
import { useRoute } from 'vue-router'
import { useSession } from '../api/session'
import AskBox from './AskBox.vue'
import { useAsked } from './asked'

// What is asked before something is done, over whatever page asks it; it goes with
// the page, and with who is signed in.
const asked = useAsked()
const session = useSession()
const route = useRoute()
watch([() => route.path, () => session.me?.person?.id], () => asked.question?.close())
</script>

<template>
  <AskBox
    v-if="asked.question"
    :title="asked.question.title"
    :says="asked.question.says"
    :go="asked.question.title"
    :longest="asked.question.minutes"
    :asks="asked.question.asks"
    :problem="asked.question.problem"
    :busy="asked.question.busy"
    @send="asked.question.send"
    @close="asked.question.close" />
</template>
