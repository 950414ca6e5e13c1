<template>
  <TrialsView />
</template>
