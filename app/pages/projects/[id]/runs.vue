<template>
  <RunsView />
</template>
