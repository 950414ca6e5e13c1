<template>
  <RobotView />
</template>
